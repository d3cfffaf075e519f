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
const sayHours = (h: number): string => (h < 48 ? `${Math.round(h)} hours` : `${Math.round(h / 24)} days`);
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
  name: 'It is still settling: normal',
  look: 'How long has it been on, and what is its core?',
  normal: `Metal holds after 12 to 24 hours, what is not metal after one to three days. ${OVERNIGHT}`,
  next: (f) =>
    stillSettling(f)
      ? { kind: 'follow-up', visit: 'retune', afterHours: 24, why: 'Retune tomorrow; it falls less each day.' }
      : nothing('It should have settled: look at the other causes.'),
  weigh: (f) => {
    const s = meant(f);
    return [
      usual(0.3),
      said(
        s && s.hoursOn !== null && stillSettling(f),
        9,
        `on for ${sayHours(s?.hoursOn ?? 0)}, and ${s?.core} takes ${CORE[s?.core ?? 'steel'].settlesHours.careful} hours`,
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
  name: 'It binds in its nut slot',
  look: 'Press the string beyond the nut and let go: does the pitch stay changed?',
  normal: 'It comes back to the note by itself.',
  next: () => nothing('Graphite or a slot lubricant. Still binding: a specialist for nut work.'),
  weigh: (f) => [usual(0.18), said(meant(f)?.changedKind, 2, 'the gauge or make changed')],
};

const tunerLoose: Cause = {
  id: 'tuner-loose',
  name: 'A nut or screw of its tuner is loose',
  look: 'Hold the tuner and rock it: does it move on the head?',
  normal: 'It sits without play.',
  next: () => nothing('Snug the nut or screw with the driver of its size; a wrong one slips and scars.'),
  weigh: (f) => [only(f.build.head !== 'pegbox' && f.build.tuner !== 'friction-peg'), usual(0.15)],
};

const notSeated: Cause = {
  id: 'not-seated',
  name: 'The end is not home at the tail',
  look: 'Tug the string away from the bridge: which end moves?',
  normal: 'Nothing moves at the tail and the pitch stays.',
  next: () => ({
    kind: 'job',
    job: 'refit',
    why: 'Slacken, seat it, bring it up again: it need not be a new string while it is uncut.',
  }),
  weigh: (f) => [
    usual(0.2),
    said(isPinned(f.build.tailEnd), 2, 'a ball on the tip of its pin takes days to settle'),
    said(tied(f), 1.5, 'ties draw tight for a while'),
    said((hours(f) ?? 1e9) < 24 * 10, 1.5, 'changed not long ago', 0.4),
  ],
};

const notStretched: Cause = {
  id: 'not-stretched',
  name: 'It was never stretched',
  look: 'Pull it gently along its length and look how far it falls.',
  normal: 'A settled string loses a few cents and comes back.',
  next: () => ({
    kind: 'follow-up',
    visit: 'retune',
    afterHours: 1,
    why: 'Stretch and retune two rounds, then look again.',
  }),
  weigh: (f) => [
    usual(0.15),
    said(
      f.lastMethod && f.lastMethod.stretchRounds <= 1,
      4,
      'the last change was hardly stretched',
      f.lastMethod ? 0.5 : 1,
    ),
    said((hours(f) ?? 1e9) < 24 * 7, 1.5, 'new this week', 0.3),
  ],
};

const tooManyWinds: Cause = {
  id: 'too-many-winds',
  name: 'Too many winds: they never finish settling',
  look: 'Count the coils, and look whether they cross.',
  normal: 'Two to four coils, one below the other.',
  next: () => ({ kind: 'job', job: 'refit', why: 'Take it off the post and wind it again with less slack.' }),
  weigh: (f) => [
    only(f.build.head !== 'pegbox'),
    usual(0.12),
    said(
      f.turns !== null && f.turns > 4,
      4,
      `about ${f.turns?.toFixed(1)} turns were wound`,
      f.turns === null ? 1 : 0.4,
    ),
  ],
};

const tieSlips: Cause = {
  id: 'tail-slips',
  name: 'The tie or tuck is slipping',
  look: 'Look at the tail: has it crept, does the last tuck lie below the edge?',
  normal: 'The last tuck lies on the back face and the tail has not moved.',
  next: () => one('Start that string again with a longer tail and one more tuck.'),
  weigh: (f) => [
    only(tied(f)),
    usual(0.35),
    said(f.number !== null && (meant(f)?.gaugeMm ?? 1) < 0.75, 1.6, 'a thin string slips first'),
  ],
};

const postSlips: Cause = {
  id: 'slips-at-post',
  name: 'It slips at the head end',
  look: 'Mark the string with a pencil where it goes in at the head, tune up, look again.',
  normal: 'The mark stays where it is.',
  next: () => ({
    kind: 'job',
    job: 'refit',
    why: 'Wind it again with more slack; if it was cut too short, a new string.',
  }),
  weigh: (f) => [
    only(f.build.tuner !== 'tapered-peg'),
    usual(0.2),
    said(f.turns !== null && f.turns < 2, 3, `only about ${f.turns?.toFixed(1)} turns were wound`),
    said(f.number !== null && meant(f)?.wound === false, 1.5, 'plain strings slip more'),
    said(f.lastMethod?.winds === 'self-lock', 0.3, 'the end is locked under itself'),
  ],
};

const frictionPeg: Cause = {
  id: 'friction-peg',
  name: 'The peg does not hold',
  look: 'Let go of the peg at pitch: does it creep back?',
  normal: 'It stays where it is left.',
  next: () => nothing('Snug the peg’s screw a quarter turn at a time and tune again.'),
  weigh: (f) => [only(f.build.tuner === 'friction-peg'), usual(0.35)],
};

const pegSlips: Cause = {
  id: 'peg-slips',
  name: 'The peg does not hold',
  look: 'Let go of the peg at pitch: does it creep back? Are the last turns against the wall?',
  normal: 'It stays where it is left.',
  next: () => ({
    kind: 'job',
    job: 'refit',
    why: 'Wind the last turns against the wall; peg compound on the two shiny rings.',
  }),
  weigh: (f) => [
    only(f.build.tuner === 'tapered-peg'),
    usual(0.35),
    said(f.dryRoom, 2.5, 'this room goes dry, and dry pegs shrink'),
  ],
};

const wornOut: Cause = {
  id: 'worn-out',
  name: 'The strings are worn out',
  look: 'Look at them, feel them, compare with a fresh one.',
  normal: 'Bright, smooth, and they hold through a lesson.',
  next: () => ({ kind: 'job', job: 'full-set', why: 'Their life is used up: a new set.' }),
  weigh: (f) => [
    usual(0.15),
    said(
      f.lifeUsed !== null && f.lifeUsed > 0.8,
      6,
      `${Math.round((f.lifeUsed ?? 0) * 100)} % of their life is used`,
      f.lifeUsed === null ? 1 : 0.3,
    ),
  ],
};

const winding: Cause = {
  id: 'winding-loose',
  name: 'The winding has come loose from its core',
  look: 'Pluck it, listen for a rattle within the string; feel along the winding, look at the cut end.',
  normal: 'The winding sits tight and the end has a bend before the cut.',
  next: () => one('It cannot be mended: a new string, bent before it is cut.'),
  weigh: (f) => [
    only(meant(f)?.wound ?? true),
    usual(0.18),
    said((meant(f)?.timesBefore ?? 0) > 0, 1.5, 'it has happened at this string before'),
  ],
};

/** Whether the string meant belongs under the tree; on a bass guitar it holds the two thinnest only. */
const mayMissTree = (f: FaultFacts): boolean =>
  f.build.extras.includes('string-tree') && (f.build.family !== 'bass-guitar' || (f.number !== null && f.number <= 2));

const fewDown: Cause = {
  id: 'little-down-force',
  name: 'Too little pull down at the nut',
  look: 'Press the string down just behind the nut while it rattles: does it stop?',
  normal: 'It makes no difference.',
  next: (f) => ({
    kind: 'job',
    job: 'refit',
    why: mayMissTree(f)
      ? 'Wind it again, further down the post, or put it under its string tree.'
      : 'Wind it again with more of its length, further down the post: no tree holds it.',
  }),
  weigh: (f) => [
    only(f.build.head !== 'pegbox' && f.build.tuner !== 'roller'),
    usual(0.3),
    said(f.build.family === 'bass-guitar', 2.5, 'a bass guitar’s second lowest string has the least pull down'),
    said(f.turns !== null && f.turns < 2, 2, `only about ${f.turns?.toFixed(1)} turns were wound`),
    said(mayMissTree(f), 1.4, 'there is a string tree it may have missed'),
  ],
};

const longTail: Cause = {
  id: 'tail-vibrates',
  name: 'A long end vibrates',
  look: 'Touch the loose ends at the head and at the tail while it buzzes.',
  normal: 'Touching them changes nothing.',
  next: () => nothing('Trim or tuck the end away; the string stays.'),
  weigh: (f) => [
    usual(0.2),
    said(tied(f), 2, 'tied tails lie on the top'),
    said(f.lastMethod && f.lastMethod.leaveMm >= 10, 1.6, 'ends were left long'),
  ],
};

const nutOrFret: Cause = {
  id: 'nut-or-fret',
  name: 'A worn nut slot or a high fret',
  look: 'Only after strings, winds and tails: fret it at 1 and pluck; does the rattle go away?',
  normal: 'It buzzes on one fret only when that fret is the cause.',
  next: () => refer('nut', 'Nut and fret work is for somebody who does it for a living.'),
  weigh: (f) => [
    usual(0.1),
    said((meant(f)?.timesBefore ?? 0) > 1, 2.5, 'new strings did not cure it before'),
    said(meant(f)?.changedKind, 1.8, 'the gauge or make changed'),
  ],
};

const sticksInNut: Cause = {
  id: 'sticks-in-nut',
  name: 'It sticks in its nut slot',
  look: 'Graphite in the slot, tune again.',
  normal: 'It glides without a sound and the pitch follows the button.',
  next: (f) =>
    meant(f)?.changedKind
      ? refer('nut', 'Still pinging after graphite: the slot is too tight for this gauge.')
      : nothing('Graphite is enough. Still pinging: a specialist for nut work.'),
  weigh: (f) => [usual(0.6), said(meant(f)?.changedKind, 2, 'the gauge or make changed')],
};

const treeSticks: Cause = {
  id: 'sticks-in-tree',
  name: 'It sticks under its string tree',
  look: 'A trace of slot lubricant under the tree.',
  normal: 'It slides through without a jump.',
  next: () => nothing('Lubricant is enough.'),
  weigh: (f) => [only(f.build.extras.includes('string-tree')), usual(0.3)],
};

const pinSlips: Cause = {
  id: 'slips-at-pin',
  name: 'The string or its ball is slipping past the pin',
  look: 'Push the pin back with a finger, reach inside and feel the ball.',
  normal: 'The pin is level and the ball lies against the plate.',
  next: () => ({ kind: 'job', job: 'refit', why: 'Slacken that string, reseat the ball, tug, tune again.' }),
  weigh: (f) => [
    only(isPinned(f.build.tailEnd)),
    usual(0.6),
    said((hours(f) ?? 1e9) < 48, 1.6, 'changed within two days'),
  ],
};

const wrapSlips: Cause = {
  id: 'wrap-slips',
  name: 'The ball’s wrap slides past its pin as it seats',
  look: 'Press the pin down with a finger while tuning up: does it stop after a turn or two?',
  normal: 'Once seated it is silent.',
  next: () => nothing('Press the pin down, go on tuning: it seats itself.'),
  weigh: (f) => [
    only(isPinned(f.build.tailEnd)),
    usual(0.4),
    said((hours(f) ?? 1e9) < 48, 2.5, 'changed within two days', 0.3),
  ],
};

const saddleSticks: Cause = {
  id: 'sticks-at-bridge',
  name: 'It sticks or catches at the bridge',
  look: 'Lift it out of its slot at the bridge and look for an edge; graphite.',
  normal: 'The slot is smooth and a little wider than the string.',
  next: () => refer('nut', 'A sharp saddle or bridge slot is smoothed by somebody who does it for a living.'),
  weigh: () => [usual(0.35)],
};

const twist: Cause = {
  id: 'twisted',
  name: 'There is a twist in the string',
  look: 'Slacken it, let the tail end turn freely, tune again.',
  normal: 'The end does not want to turn.',
  next: () => ({ kind: 'job', job: 'refit', why: 'Let the twist out and bring it up again.' }),
  weigh: (f) => [usual(0.25), said((hours(f) ?? 1e9) < 24 * 7, 1.8, 'changed this week')],
};

const bridgeMoved: Cause = {
  id: 'bridge-moved',
  name: 'The bridge has moved',
  look: 'Look at the marks of the feet; measure from nut to bridge if a length was noted for this instrument.',
  normal: 'Feet on their marks, and the length as it was noted; on frets the octave at the twelfth matches.',
  next: () => ({
    kind: 'follow-up',
    visit: 'bridge-check',
    afterHours: 24,
    why: 'Put it back, and look again within 24 hours.',
  }),
  weigh: (f) => [
    only(floating(f)),
    usual(0.4),
    said((hours(f) ?? 1e9) < 24 * 3, 2, 'new strings drag it for a day or two'),
  ],
};

const otherGauge: Cause = {
  id: 'other-gauge',
  name: 'Another gauge or make than before',
  look: 'Compare what is on with what was on.',
  normal: 'The same product as last time.',
  next: () => refer('set-up', 'The intonation is set for the old gauge.'),
  weigh: (f) => [
    usual(0.15),
    said(meant(f)?.changedKind, 5, 'the record says so', meant(f)?.changedKind === false ? 0.1 : 1),
  ],
};

const overstretched: Cause = {
  id: 'overstretched',
  name: 'Overstretched or kinked: it plays false',
  look: 'Pluck it and watch it swing: two blurred lines mean a false string.',
  normal: 'One clean blur along its length.',
  next: () => one('A false string cannot be intonated: a new one.'),
  weigh: (f) => [usual(0.2), said(f.lastMethod && f.lastMethod.stretchRounds >= 4, 2, 'stretched four rounds or more')],
};

const samePlace: Cause = {
  id: 'sharp-edge',
  name: 'A sharp edge where it breaks',
  look: 'Where did it break: post, nut, fret or saddle? Hold the piece against its place.',
  normal: 'Breaks at different places are wear, not an edge.',
  next: (f) =>
    (meant(f)?.timesBefore ?? 0) > 0
      ? refer('nut', 'Twice in the same place: that place is smoothed by a specialist.')
      : one('A new string; write down where it broke.'),
  weigh: (f) => [usual(0.4), said((meant(f)?.timesBefore ?? 0) > 0, 3, `it is not the first time at this string`)],
};

const overshoot: Cause = {
  id: 'overshoot',
  name: 'Tuned past its note, or an octave too high',
  look: 'Which note was it being tuned to, and from which side?',
  normal: 'Up to the note from below; unsure, lower first.',
  next: () => one('A new string, tuned from below.'),
  weigh: (f) => [
    usual(0.25),
    said(f.number !== null && meant(f)?.wound === false, 1.4, 'a plain string stands closest to its strength'),
  ],
};

const old: Cause = {
  ...wornOut,
  id: 'worn-through',
  name: 'Worn through by age',
  look: 'Look at the piece: dull, pitted, flattened where it met the frets?',
  normal: 'A young string breaks clean and bright.',
};

const ballOnTip: Cause = {
  id: 'ball-on-tip',
  name: 'The ball sits on the tip of the pin',
  look: 'Slacken, reach inside and feel the ball.',
  normal: 'The ball lies beside the pin, against the plate.',
  next: () => ({ kind: 'job', job: 'refit', why: 'Reseat it and tug; the string stays.' }),
  weigh: () => [usual(0.7)],
};

const pinMisfit: Cause = {
  id: 'pin-misfit',
  name: 'The pin does not fit its hole',
  look: 'Try the pin in its hole without a string: does it stand up or fall in?',
  normal: 'It goes in by finger pressure and stands level.',
  next: () => refer('pins', 'Pins are fitted to their holes by a repairer.'),
  weigh: (f) => [usual(0.2), said((meant(f)?.timesBefore ?? 0) > 0, 2, 'it has lifted before')],
};

const sharpEnds: Cause = {
  id: 'sharp-ends',
  name: 'Ends left long or bent up',
  look: 'Run a cloth over head and tail: where does it catch?',
  normal: 'The cloth catches nowhere.',
  next: () => nothing('Trim, then bend the end down.'),
  weigh: (f) => [usual(0.7), said(f.lastMethod && f.lastMethod.leaveMm >= 5, 1.3, 'ends were left standing')],
};

const wrapEnd: Cause = {
  id: 'wrapped-end',
  name: 'The winding end stands up on the wrapped-over tailpiece',
  look: 'Look at the wrap from the side.',
  normal: 'The thick winding ends before the top.',
  next: () => ({ kind: 'job', job: 'refit', why: 'Ball-end spacers bring the winding end down.' }),
  weigh: (f) => [only(f.build.tailEnd === 'stop-tailpiece-wrapped' || f.build.tailEnd === 'wrap-around'), usual(0.5)],
};

const dryAir: Cause = {
  id: 'dry-air',
  name: 'Dry air: pegs and wood have shrunk',
  look: (build) =>
    isBowed(build.family)
      ? 'Look whether the soundpost stands, then read the room.'
      : 'Look for a crack and a lifting bridge, then read the room.',
  normal: 'In a room at 40 to 60 % humidity nothing lets go.',
  next: () => ({ kind: 'job', job: 'emergency', why: 'Follow the card for an instrument found slack, step by step.' }),
  weigh: (f) => [
    usual(0.4),
    said(f.dryRoom, 4, 'this room is known to go dry'),
    said(f.build.tuner === 'tapered-peg', 2, 'wooden pegs let go first'),
  ],
};

const tailLetGo: Cause = {
  id: 'tail-let-go',
  name: 'The tailpiece or its cord let go',
  look: 'Is the tailpiece where it should be, the cord whole?',
  normal: 'It hangs in line, clear of the top.',
  next: (f) =>
    isBowed(f.build.family)
      ? refer('soundpost', 'The tail cord is renewed and the soundpost checked.')
      : refer('all-slack', 'The tail cord is renewed.', 'a qualified repairer'),
  weigh: (f) => [only(f.build.tailEnd.includes('tailpiece') && floating(f)), usual(0.2)],
};

const liftingBridge: Cause = {
  id: 'bridge-lifts',
  name: 'The bridge or a brace has come loose',
  look: 'A slip of paper along the back edge of the bridge: does it go under?',
  normal: 'It goes in nowhere.',
  next: () => refer('lifting', 'It is glued before it is strung to pitch again.'),
  weigh: (f) => [only(!floating(f)), usual(0.3), said(f.dryRoom, 1.5, 'this room is known to go dry')],
};

const slackened: Cause = {
  id: 'slackened',
  name: 'Someone slackened it, to travel or to work on it',
  look: 'Ask who had it last.',
  normal: 'All buttons turned back by about as much.',
  next: () => ({ kind: 'job', job: 'emergency', why: 'Bring the pull back in balance, watching the bridge.' }),
  weigh: () => [usual(0.2)],
};

const dragged: Cause = {
  id: 'dragged',
  name: 'New strings drag it towards the nut: normal for a day',
  look: 'Look from the side: does the side towards the tailpiece stand square to the top?',
  normal: 'After a change it is straightened, measured, and again the next day.',
  next: () => ({
    kind: 'follow-up',
    visit: 'bridge-check',
    afterHours: 24,
    why: 'Straighten it now and look again within 24 hours.',
  }),
  weigh: (f) => [
    usual(0.3),
    said((hours(f) ?? 1e9) < 72, 4, `strings have been on for ${sayHours(hours(f) ?? 0)}`, 0.5),
  ],
};

const warped: Cause = {
  id: 'warped',
  name: 'The bridge is warped or its feet do not fit',
  look: 'Straighten it first, both hands, thumbs at the top. Does it stay? Is there light under a foot?',
  normal: 'It stays upright, both feet close on the top.',
  next: () => refer('leaning', 'Straightened it leans again: bridges are fitted by a luthier.'),
  weigh: (f) => [usual(0.2), said((hours(f) ?? 0) > 24 * 14, 2, 'no change for weeks')],
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
    name: 'One string goes out, the rest hold',
    ofString: true,
    causes: [tieSlips, postSlips, pegSlips, frictionPeg, notSeated, nutBinds, tunerLoose, settlingAlone, winding],
  },
  {
    id: 'open-buzz',
    name: 'An open string buzzes or rattles',
    ofString: true,
    first: 'Winds and loose ends before blaming the nut.',
    causes: [fewDown, longTail, winding, overstretched, nutOrFret],
  },
  {
    id: 'ping-head',
    name: 'It pings while tuning, at the head',
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
    name: 'It plays out of tune along the neck',
    ofString: true,
    causes: [twist, bridgeMoved, otherGauge, overstretched, wornOut],
  },
  {
    id: 'breaks-again',
    name: 'A string broke, perhaps not for the first time',
    ofString: true,
    first: 'Bin the pieces; eyes and fingers first.',
    causes: [samePlace, overshoot, old],
  },
  {
    id: 'pin-rises',
    name: 'A pin rises',
    ofString: true,
    when: (b) => isPinned(b.tailEnd),
    causes: [ballOnTip, pinMisfit, tooManyWinds],
  },
  {
    id: 'pricks',
    name: 'Something pricks or scratches the hand',
    ofString: false,
    causes: [sharpEnds, wrapEnd],
  },
  {
    id: 'all-slack',
    name: 'All strings are slack',
    ofString: false,
    first: SAFETY['all-slack'].meanwhile,
    causes: [dryAir, tailLetGo, liftingBridge, slackened],
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
