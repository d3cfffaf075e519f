import { count, sayWinds } from '../count';
import { isBowed } from '../instruments/build';
import { CORE } from '../parts/cores';
import { isPinned, isTied } from '../parts/tailEnds';
import { SAFETY, type SafetyTopicId } from '../safety/topics';
import { isSoft, OVERNIGHT } from '../settling/overnight';
import type { Cause, FaultFacts, FaultString, NextStep, Symptom } from './types';

/** The string meant, or the newest when none is. */
const meant = (f: FaultFacts): FaultString | null =>
  f.strings.find((s) => s.number === f.number) ??
  [...f.strings].sort((a, b) => (a.hoursOn ?? 1e9) - (b.hoursOn ?? 1e9))[0] ??
  null;
const hours = (f: FaultFacts): number | null => meant(f)?.hoursOn ?? null;
const stillSettling = (f: FaultFacts): boolean => {
  const s = meant(f);
  return s !== null && s.hoursOn !== null && s.hoursOn < CORE[s.core].settlesHours.careful;
};
const sayHours = (h: number): string => (h < 48 ? count(Math.round(h), 'hour') : count(Math.round(h / 24), 'day'));
const tied = (f: FaultFacts) => isTied(f.build.tailEnd);
const floating = (f: FaultFacts) => f.build.bridge === 'floating';

const usual = (factor: number) => ({ factor });
const said = (holds: boolean | null | undefined, yes: number, because: string, no = 1) =>
  holds ? { factor: yes, because } : { factor: no };
/** Rules a cause out on builds that do not have its part. */
const only = (has: boolean) => ({ factor: has ? 1 : 0 });

const one = (why: string): NextStep => ({ kind: 'job', job: 'one-string', why });
const refer = (topic: SafetyTopicId, why: string, to: string = SAFETY[topic].to): NextStep => ({
  kind: 'referral',
  to,
  why,
  topic,
});
const nothing = (why: string): NextStep => ({ kind: 'nothing', why });

const settling: Cause = {
  id: 'settling',
  name: 'Still settling, which is normal',
  look: 'How long has it been on, and what core does it have?',
  normal: `Metal cores hold after 12 to 24 hours, all others after one to three days. ${OVERNIGHT}`,
  next: (f) =>
    stillSettling(f)
      ? { kind: 'follow-up', visit: 'retune', afterHours: 24, why: 'Retune it tomorrow; it drops less each day.' }
      : nothing('It should have settled by now: check the other causes.'),
  weigh: (f) => {
    const s = meant(f);
    return [
      usual(0.3),
      said(
        s && s.hoursOn !== null && stillSettling(f),
        9,
        `it has been on for ${sayHours(s?.hoursOn ?? 0)}, and a ${s?.core} core needs ${count(CORE[s?.core ?? 'steel'].settlesHours.careful, 'hour')}`,
        hours(f) === null ? 1 : 0.05,
      ),
      said(s && isSoft(s.core), 1.5, OVERNIGHT.charAt(0).toLowerCase() + OVERNIGHT.slice(1, -1)),
    ];
  },
};

/** Strings of one age settle alike: where one is out and the rest hold, something else is wrong with it. */
const settlingAlone: Cause = {
  ...settling,
  weigh: (f) => {
    const s = meant(f);
    const others = f.strings.filter((o) => o.number !== s?.number && o.hoursOn !== null);
    const alike = s?.hoursOn !== null && others.some((o) => Math.abs((o.hoursOn ?? 0) - (s?.hoursOn ?? 0)) < 24);
    return [...settling.weigh(f), { factor: alike ? 0.05 : 1 }];
  },
};

const nutBinds: Cause = {
  id: 'nut-binds',
  name: 'It binds in the nut slot',
  look: 'Press the string down behind the nut and let go: does the pitch stay changed?',
  normal: 'The pitch comes back by itself.',
  next: () => nothing('Use graphite or a slot lubricant. Still binding: a qualified repairer.'),
  weigh: (f) => [usual(0.18), said(meant(f)?.changedKind, 2, 'the gauge or make has changed')],
};

const tunerLoose: Cause = {
  id: 'tuner-loose',
  name: 'A tuner nut or screw is loose',
  look: 'Hold the tuner and rock it: does it move on the headstock?',
  normal: 'It is firm, with no play.',
  next: () => nothing('Snug the nut or screw with a driver that fits; the wrong size slips and marks it.'),
  weigh: (f) => [only(f.build.head !== 'pegbox' && f.build.tuner !== 'friction-peg'), usual(0.15)],
};

const notSeated: Cause = {
  id: 'not-seated',
  name: 'The string end is not seated',
  look: 'Tug the string away from the bridge: which end moves?',
  normal: 'Nothing moves at the tail end, and the pitch holds.',
  next: () => ({
    kind: 'job',
    job: 'refit',
    why: 'Slacken, seat it, bring it back up. While it is uncut you can use the same string.',
  }),
  weigh: (f) => [
    usual(0.2),
    said(isPinned(f.build.tailEnd), 2, 'a ball on the tip of its pin takes days to settle'),
    said(tied(f), 1.5, 'ties go on tightening for a while'),
    said((hours(f) ?? 1e9) < 24 * 10, 1.5, 'it was changed recently', 0.4),
  ],
};

const notStretched: Cause = {
  id: 'not-stretched',
  name: 'It was never stretched',
  look: 'Stretch it gently along its length and see how far it drops.',
  normal: 'A settled string drops a few cents and comes back.',
  next: () => ({
    kind: 'follow-up',
    visit: 'retune',
    afterHours: 1,
    why: 'Stretch and retune twice, then check again.',
  }),
  weigh: (f) => [
    usual(0.15),
    said(
      f.lastMethod && f.lastMethod.stretchRounds <= 1,
      4,
      'it was hardly stretched last time',
      f.lastMethod ? 0.5 : 1,
    ),
    said((hours(f) ?? 1e9) < 24 * 7, 1.5, 'it is under a week old', 0.3),
  ],
};

const tooManyWinds: Cause = {
  id: 'too-many-winds',
  name: 'Too many winds, which keep settling',
  look: 'Count the winds and see whether any cross.',
  normal: 'Two to four winds, one below the other.',
  next: () => ({ kind: 'job', job: 'refit', why: 'Take it off the post and rewind it with less slack.' }),
  weigh: (f) => [
    only(f.build.head !== 'pegbox'),
    usual(0.12),
    said(f.turns !== null && f.turns > 4, 4, `it has about ${sayWinds(f.turns ?? 0)}`, f.turns === null ? 1 : 0.4),
  ],
};

const tieSlips: Cause = {
  id: 'tail-slips',
  name: 'The tie or tuck is slipping',
  look: 'Check the tail: has it crept? Is the last tuck below the edge?',
  normal: 'The last tuck is on the back face and the tail has not moved.',
  next: () => one('Start that string again with a longer tail and one more tuck.'),
  weigh: (f) => [
    only(tied(f)),
    usual(0.35),
    said(f.number !== null && (meant(f)?.gaugeMm ?? 1) < 0.75, 1.6, 'a thin string slips first'),
  ],
};

const postSlips: Cause = {
  id: 'slips-at-post',
  name: 'It slips at the post',
  look: 'Mark the string in pencil where it enters the post, tune up, check again.',
  normal: 'The mark does not move.',
  next: () => ({
    kind: 'job',
    job: 'refit',
    why: 'Rewind it with more slack; if it was cut too short, fit a new string.',
  }),
  weigh: (f) => [
    only(f.build.tuner !== 'tapered-peg'),
    usual(0.2),
    said(f.turns !== null && f.turns < 2, 3, `it has only about ${sayWinds(f.turns ?? 0)}`),
    said(f.number !== null && meant(f)?.wound === false, 1.5, 'plain strings slip more'),
    said(f.lastMethod?.winds === 'self-lock', 0.3, 'the end is self-locked'),
  ],
};

const frictionPeg: Cause = {
  id: 'friction-peg',
  name: 'The peg does not hold',
  look: 'At pitch, let go of the peg: does it creep back?',
  normal: 'It stays put.',
  next: () => nothing('Tighten the peg screw a quarter turn at a time, then retune.'),
  weigh: (f) => [only(f.build.tuner === 'friction-peg'), usual(0.35)],
};

const pegSlips: Cause = {
  id: 'peg-slips',
  name: 'The peg does not hold',
  look: 'At pitch, let go of the peg: does it creep back? Are the last winds against the pegbox wall?',
  normal: 'It stays put.',
  next: () => ({
    kind: 'job',
    job: 'refit',
    why: 'Compound on the two shiny bands; rewind with the last winds against the wall.',
  }),
  weigh: (f) => [
    only(f.build.tuner === 'tapered-peg'),
    usual(0.35),
    said(f.dryRoom, 2.5, 'this room gets dry, and dry pegs shrink'),
  ],
};

const wornOut: Cause = {
  id: 'worn-out',
  name: 'The strings are worn out',
  look: 'Look at them, feel them, compare them with a new one.',
  normal: 'They are bright and smooth, and hold through a lesson.',
  next: () => ({ kind: 'job', job: 'full-set', why: 'At the end of their life: fit a new set.' }),
  weigh: (f) => [
    usual(0.15),
    said(
      f.lifeUsed !== null && f.lifeUsed > 0.8,
      6,
      `${Math.round((f.lifeUsed ?? 0) * 100)} % of their expected life is used`,
      f.lifeUsed === null ? 1 : 0.3,
    ),
  ],
};

const winding: Cause = {
  id: 'winding-loose',
  name: 'The winding has come loose from its core',
  look: 'Pluck it and listen for a rattle in the string itself; feel along the winding, check the cut end.',
  normal: 'The winding is tight, and the end was bent before it was cut.',
  next: () => one('It cannot be mended: fit a new string, and bend it before you cut.'),
  weigh: (f) => [
    only(meant(f)?.wound ?? true),
    usual(0.18),
    said((meant(f)?.timesBefore ?? 0) > 0, 1.5, 'it has happened on this string before'),
  ],
};

/** Whether the string meant belongs under the tree, which holds the treble side: never the two lowest. */
const mayMissTree = (f: FaultFacts): boolean =>
  f.build.extras.includes('string-tree') &&
  (f.build.family === 'bass-guitar'
    ? f.number !== null && f.number <= 2
    : f.number === null || f.number <= f.build.positions.length - 2);

const fewDown: Cause = {
  id: 'little-down-force',
  name: 'Too little pressure in the nut slot',
  look: 'Press the string down behind the nut, on the headstock side: does the rattle stop?',
  normal: 'Pressing makes no difference.',
  next: (f) => ({
    kind: 'job',
    job: 'refit',
    why: mayMissTree(f)
      ? 'Rewind it further down the post, or put it under the string tree.'
      : 'Rewind it with more length, further down the post: no string tree holds it down.',
  }),
  weigh: (f) => [
    only(f.build.head !== 'pegbox' && f.build.tuner !== 'roller'),
    usual(0.3),
    said(f.build.family === 'bass-guitar', 2.5, 'on a bass guitar the second-lowest string presses least on the nut'),
    said(f.turns !== null && f.turns < 2, 2, `it has only about ${sayWinds(f.turns ?? 0)}`),
    said(mayMissTree(f), 1.4, 'it may have missed the string tree'),
  ],
};

const longTail: Cause = {
  id: 'tail-vibrates',
  name: 'A long string end vibrates',
  look: 'While it buzzes, touch the loose ends at the post and the tail.',
  normal: 'Touching them makes no difference.',
  next: () => nothing('Trim the end or tuck it away; keep the string.'),
  weigh: (f) => [
    usual(0.2),
    said(tied(f), 2, 'tied tails rest on the top'),
    said(f.lastMethod && f.lastMethod.leaveMm >= 10, 1.6, 'the ends were left long'),
  ],
};

const nutOrFret: Cause = {
  id: 'nut-or-fret',
  name: 'A worn nut slot or a high fret',
  look: 'Rule out string, winds and tail first. Then play the 1st fret: does the rattle stop?',
  normal: 'The rattle is the same, open or fretted.',
  next: () => refer('nut', 'Nut and fret work is for a qualified repairer.'),
  weigh: (f) => [
    usual(0.1),
    said((meant(f)?.timesBefore ?? 0) > 1, 2.5, 'new strings have not cured it before'),
    said(meant(f)?.changedKind, 1.8, 'the gauge or make has changed'),
  ],
};

const sticksInNut: Cause = {
  id: 'sticks-in-nut',
  name: 'It sticks in the nut slot',
  look: 'Rub graphite into the slot, tune again.',
  normal: 'It runs through silently and the pitch follows smoothly.',
  next: (f) =>
    meant(f)?.changedKind
      ? refer('nut', 'Still pinging after graphite: the slot is too tight for this gauge.')
      : nothing('Graphite usually cures it. Still pinging: a qualified repairer.'),
  weigh: (f) => [usual(0.6), said(meant(f)?.changedKind, 2, 'the gauge or make has changed')],
};

const treeSticks: Cause = {
  id: 'sticks-in-tree',
  name: 'It sticks under the string tree',
  look: 'Put a trace of slot lubricant under the tree.',
  normal: 'It runs through without catching.',
  next: () => nothing('Lubricant is all it needs.'),
  weigh: (f) => [only(mayMissTree(f)), usual(0.3)],
};

const pinSlips: Cause = {
  id: 'slips-at-pin',
  name: 'The string or its ball is slipping past the pin',
  look: 'Push the pin back in with a finger, reach inside and feel the ball.',
  normal: 'The pin is level and the ball is against the bridge plate.',
  next: () => ({ kind: 'job', job: 'refit', why: 'Slacken it, reseat the ball, give it a tug, tune again.' }),
  weigh: (f) => [
    only(isPinned(f.build.tailEnd)),
    usual(0.6),
    said((hours(f) ?? 1e9) < 48, 1.6, 'it is under two days old'),
  ],
};

const wrapSlips: Cause = {
  id: 'wrap-slips',
  name: 'The wrap at the ball slides past the pin as it seats',
  look: 'Hold the pin down with a finger as you tune up: does the ping stop after a turn or two?',
  normal: 'Once seated, it is silent.',
  next: () => nothing('Hold the pin down and go on tuning: it seats itself.'),
  weigh: (f) => [
    only(isPinned(f.build.tailEnd)),
    usual(0.4),
    said((hours(f) ?? 1e9) < 48, 2.5, 'it is under two days old', 0.3),
  ],
};

const saddleSticks: Cause = {
  id: 'sticks-at-bridge',
  name: 'It sticks or catches at the bridge',
  look: 'Lift it out of its bridge slot and look for a sharp edge; add graphite.',
  normal: 'The slot is smooth and a little wider than the string.',
  next: () => refer('nut', 'A qualified repairer smooths a sharp saddle or bridge slot.'),
  weigh: () => [usual(0.35)],
};

const twist: Cause = {
  id: 'twisted',
  name: 'The string is twisted',
  look: 'Slacken it, let the tail end turn freely, then tune again.',
  normal: 'The end does not turn when freed.',
  next: () => ({ kind: 'job', job: 'refit', why: 'Let the twist out and bring it back up.' }),
  weigh: (f) => [usual(0.25), said((hours(f) ?? 1e9) < 24 * 7, 1.8, 'it is under a week old')],
};

const bridgeMoved: Cause = {
  id: 'bridge-moved',
  name: 'The bridge has moved',
  look: 'Check the feet against their marks; measure nut to bridge if a length is on record.',
  normal: 'Feet on their marks and the length as on record; with frets, the 12th-fret octave matches.',
  next: () => ({
    kind: 'follow-up',
    visit: 'bridge-check',
    afterHours: 24,
    why: 'Put it back, and check it again within 24 hours.',
  }),
  weigh: (f) => [
    only(floating(f)),
    usual(0.4),
    said((hours(f) ?? 1e9) < 24 * 3, 2, 'new strings pull it forward for a day or two'),
  ],
};

const otherGauge: Cause = {
  id: 'other-gauge',
  name: 'A different gauge or make from before',
  look: 'Compare what is on now with what was on.',
  normal: 'The same product as last time.',
  next: () => refer('set-up', 'The intonation is still set for the old gauge.'),
  weigh: (f) => [
    usual(0.15),
    said(meant(f)?.changedKind, 5, 'it is on record', meant(f)?.changedKind === false ? 0.1 : 1),
  ],
};

const overstretched: Cause = {
  id: 'overstretched',
  name: 'The string is false (overstretched or kinked)',
  look: 'Pluck it and watch it swing: two blurred lines mean a false string.',
  normal: 'One clean blur along its length.',
  next: () => one('A false string never plays in tune: fit a new one.'),
  weigh: (f) => [
    usual(0.2),
    said(f.lastMethod && f.lastMethod.stretchRounds >= 4, 2, 'it was stretched four times or more'),
  ],
};

const samePlace: Cause = {
  id: 'sharp-edge',
  name: 'A sharp edge where it breaks',
  look: 'Where did it break: post, nut, fret or saddle? Hold the broken end against the spot.',
  normal: 'Breaks in different places mean wear, not a sharp edge.',
  next: (f) =>
    (meant(f)?.timesBefore ?? 0) > 0
      ? refer('nut', 'Twice in the same place: a qualified repairer smooths that spot.')
      : one('Fit a new string and note where it broke.'),
  weigh: (f) => [usual(0.4), said((meant(f)?.timesBefore ?? 0) > 0, 3, 'it is not the first time on this string')],
};

const overshoot: Cause = {
  id: 'overshoot',
  name: 'Tuned past the note, or an octave too high',
  look: 'Which note was it being tuned to, and from above or below?',
  normal: 'Tune up to the note; if unsure, start lower.',
  next: () => one('Fit a new string and tune up from below.'),
  weigh: (f) => [
    usual(0.25),
    said(f.number !== null && meant(f)?.wound === false, 1.4, 'a plain string is nearest its breaking point'),
  ],
};

const old: Cause = {
  ...wornOut,
  id: 'worn-through',
  name: 'Worn through with age',
  look: 'Look at the piece: is it dull, pitted, or flattened by the frets?',
  normal: 'A fairly new string breaks clean and bright.',
};

const ballOnTip: Cause = {
  id: 'ball-on-tip',
  name: 'The ball sits on the tip of the pin',
  look: 'Slacken, reach inside and feel the ball.',
  normal: 'The ball is beside the pin, against the bridge plate.',
  next: () => ({ kind: 'job', job: 'refit', why: 'Reseat the ball and tug; keep the string.' }),
  weigh: () => [usual(0.7)],
};

const pinMisfit: Cause = {
  id: 'pin-misfit',
  name: 'The pin does not fit its hole',
  look: 'Try the pin without a string: does it stand proud or drop in loose?',
  normal: 'Finger pressure seats it, and it sits level.',
  next: () => refer('pins', 'Fitting pins is for a qualified repairer.'),
  weigh: (f) => [usual(0.2), said((meant(f)?.timesBefore ?? 0) > 0, 2, 'it has lifted before')],
};

const sharpEnds: Cause = {
  id: 'sharp-ends',
  name: 'Ends left long or bent up',
  look: 'Wipe a cloth over both string ends: where does it catch?',
  normal: 'The cloth does not catch.',
  next: () => nothing('Trim the end and bend it down.'),
  weigh: (f) => [usual(0.7), said(f.lastMethod && f.lastMethod.leaveMm >= 5, 1.3, 'the ends were left long')],
};

const wrapEnd: Cause = {
  id: 'wrapped-end',
  name: 'The end of the winding stands proud on the wrapped tailpiece',
  look: 'Look at the wrap from the side.',
  normal: 'The thick wrap ends before it reaches the top.',
  next: () => ({ kind: 'job', job: 'refit', why: 'Fit ball-end spacers to bring the winding down.' }),
  weigh: (f) => [only(f.build.tailEnd === 'stop-tailpiece-wrapped' || f.build.tailEnd === 'wrap-around'), usual(0.5)],
};

const dryAir: Cause = {
  id: 'dry-air',
  name: 'Dry air has shrunk the pegs',
  look: (build) =>
    isBowed(build.family)
      ? 'Check that the soundpost is up, then read the hygrometer.'
      : 'Check for a crack or a lifting bridge, then read the hygrometer.',
  normal: 'In a room at 40 to 60 % humidity nothing slips.',
  next: () => ({ kind: 'job', job: 'emergency', why: 'Follow the steps for an instrument found slack.' }),
  // Gears hold whatever the air does: only wooden pegs let go.
  weigh: (f) => [
    only(f.build.tuner === 'tapered-peg'),
    usual(0.8),
    said(f.dryRoom, 4, 'this room is known to get dry'),
  ],
};

const bridgeFell: Cause = {
  id: 'bridge-fell',
  name: 'The bridge has fallen',
  look: 'Is the bridge lying down, or out of its place? Do not raise it against the strings.',
  normal: 'It stands upright, both feet on the top.',
  next: (f) =>
    isBowed(f.build.family)
      ? refer('soundpost', 'The soundpost may have fallen with it.')
      : refer('all-slack', 'Have the bridge set up again and the top checked.', 'a qualified repairer'),
  weigh: (f) => [only(floating(f)), usual(0.5)],
};

const tailLetGo: Cause = {
  id: 'tail-let-go',
  name: 'The tailpiece or tail cord has given way',
  look: 'Is the tailpiece in place and the tail cord whole?',
  normal: 'It sits in line, clear of the top.',
  next: (f) =>
    isBowed(f.build.family)
      ? refer('soundpost', 'Have the tail cord replaced and the soundpost checked.')
      : refer('all-slack', 'Have the tail cord replaced.', 'a qualified repairer'),
  weigh: (f) => [only(f.build.tailEnd.includes('tailpiece') && floating(f)), usual(0.2)],
};

const liftingBridge: Cause = {
  id: 'bridge-lifts',
  name: 'The bridge or a brace has come loose',
  look: 'Run a slip of paper along the back edge of the bridge: does it slide under?',
  normal: 'It does not slide under.',
  next: () => refer('lifting', 'It must be reglued before it goes back to pitch.'),
  weigh: (f) => [only(!floating(f)), usual(0.3), said(f.dryRoom, 1.5, 'this room is known to get dry')],
};

const slackened: Cause = {
  id: 'slackened',
  name: 'Someone slackened it to travel or to work on it',
  look: 'Ask who had it last.',
  normal: 'All buttons turned back by about the same amount.',
  next: () => ({ kind: 'job', job: 'emergency', why: 'Bring the tension up evenly, watching the bridge.' }),
  weigh: () => [usual(0.2)],
};

const dragged: Cause = {
  id: 'dragged',
  name: 'New strings pull it towards the nut (normal for a day)',
  look: 'Look from the side: is the tailpiece side of the bridge square to the top?',
  normal: 'After a change it is straightened and measured, then checked again next day.',
  next: () => ({
    kind: 'follow-up',
    visit: 'bridge-check',
    afterHours: 24,
    why: 'Straighten it now and check it again within 24 hours.',
  }),
  weigh: (f) => [
    usual(0.3),
    said((hours(f) ?? 1e9) < 72, 4, `the strings have been on for ${sayHours(hours(f) ?? 0)}`, 0.5),
  ],
};

const warped: Cause = {
  id: 'warped',
  name: 'The bridge is warped or its feet do not fit',
  look: 'Straighten it first: both hands, thumbs at the top. Does it stay? Any light under a foot?',
  normal: 'It stays upright, both feet flat on the top.',
  next: () => refer('leaning', 'Still leaning after straightening: a luthier fits a bridge.'),
  weigh: (f) => [usual(0.2), said((hours(f) ?? 0) > 24 * 14, 2, 'no new strings for weeks')],
};

/** The fault desk: what people come with, and what it usually is. Common practice, no source. */
export const SYMPTOMS: readonly Symptom[] = [
  {
    id: 'flat-for-days',
    name: 'It keeps going flat',
    ofString: false,
    causes: [
      settling,
      notSeated,
      notStretched,
      tooManyWinds,
      tieSlips,
      postSlips,
      pegSlips,
      frictionPeg,
      nutBinds,
      tunerLoose,
      wornOut,
    ],
  },
  {
    id: 'one-out',
    name: 'One string goes out of tune, the rest hold',
    ofString: true,
    causes: [tieSlips, postSlips, pegSlips, frictionPeg, notSeated, nutBinds, tunerLoose, settlingAlone, winding],
  },
  {
    id: 'open-buzz',
    name: 'An open string buzzes or rattles',
    ofString: true,
    first: 'Check winds and loose ends before blaming the nut.',
    causes: [fewDown, longTail, winding, overstretched, nutOrFret],
  },
  {
    id: 'ping-head',
    name: 'It pings while tuning, at the nut end',
    ofString: true,
    causes: [sticksInNut, treeSticks, postSlips],
  },
  {
    id: 'ping-bridge',
    name: 'It pings while tuning, at the bridge',
    ofString: true,
    causes: [pinSlips, wrapSlips, tieSlips, saddleSticks, notSeated],
  },
  {
    id: 'octave-wrong',
    name: 'It plays out of tune up the neck',
    ofString: true,
    causes: [twist, bridgeMoved, otherGauge, overstretched, wornOut],
  },
  {
    id: 'breaks-again',
    name: 'A string broke, perhaps not for the first time',
    ofString: true,
    first: 'Mind your eyes and fingers, and bin the pieces.',
    causes: [samePlace, overshoot, old],
  },
  {
    id: 'pin-rises',
    name: 'A pin lifts',
    ofString: true,
    when: (b) => isPinned(b.tailEnd),
    causes: [ballOnTip, pinMisfit, tooManyWinds],
  },
  {
    id: 'pricks',
    name: 'Something sharp catches the hand',
    ofString: false,
    causes: [sharpEnds, wrapEnd],
  },
  {
    id: 'all-slack',
    name: 'All strings are slack',
    ofString: false,
    first: SAFETY['all-slack'].meanwhile,
    causes: [dryAir, bridgeFell, tailLetGo, liftingBridge, slackened],
  },
  {
    id: 'bridge-leans',
    name: 'The bridge leans',
    ofString: false,
    when: (b) => b.bridge === 'floating',
    first: SAFETY.leaning.meanwhile,
    causes: [dragged, warped],
  },
  {
    id: 'dull',
    name: 'It sounds dull or feels grimy',
    ofString: false,
    causes: [wornOut, overstretched],
  },
];
