import type { Build, Position } from '../../instruments/build';
import { isBowed } from '../../instruments/build';
import { isPinned, TAIL_END } from '../../parts/tailEnds';
import { isLocking } from '../../parts/tuners';
import { crossing, treeWinding } from '../../winding/bass';
import { THROUGH_HOLE_MM } from '../../winding/cut';
import { pegTurn, tightens } from '../../winding/post';
import { HAND_MM, type SlackRule } from '../../winding/slack';
import { isCut, isTrimmed } from '../method';
import type { MistakeId } from '../mistakes';
import { type StringNumbers, underTree, windingQuantities, woundWhole } from '../numbers';
import {
  CHANGE_KINDS,
  CUTTING_KINDS,
  type Method,
  type Quantity,
  type StepBody,
  type StepDefinition,
  type StringToFit,
} from '../types';
import { windsOf } from '../winds';
import { type Names, postWord } from '../words';

const WIND_WORDS: Record<Method['winds'] | 'two-over', string> = {
  'one-over': 'First wind over the string end, the rest under it: they clamp it.',
  'spiral-down': 'Each wind goes below the last, down towards the headstock.',
  'self-lock':
    'Take the end round the post against the winding direction, under the string, pull tight, fold up and back over it: now wind.',
  'two-over': 'Two winds over the string end, then under: plain strings slip more.',
};

const HOLE_WORDS: Record<Method['hole'], string> = {
  across: 'Set the hole across the neck.',
  along: 'Set the hole along the neck.',
  angled: 'Set the hole about 45° towards the inside.',
};

const FRETS: Record<string, string> = {
  '0.5': 'half a fret',
  '1': 'one fret',
  '1.5': 'a fret and a half',
  '2': 'two frets',
};
const SPACINGS: Record<string, string> = {
  '1': 'one post spacing',
  '1.5': 'one and a half post spacings',
  '2': 'two post spacings',
};

/** The slack as a hand measures it; undefined where only a ruler does. */
function inHand(rule: SlackRule, n: StringNumbers): string | undefined {
  if (n.ruleGives) return undefined;
  if (rule.kind === 'first-fret') return FRETS[rule.times];
  if (rule.kind === 'post-spacings') return SPACINGS[rule.spacings];
  if (rule.kind === 'length')
    return rule.mm === 25.4 ? 'an inch' : rule.mm === HAND_MM ? 'a hand’s breadth' : undefined;
  return undefined;
}

/**
 * How much of the slack to let back, as one would say and do it at the bench.
 * @param several whether each string has its own in a row beside it
 */
function letBack(rule: SlackRule, n: StringNumbers, several: boolean): string {
  if (several)
    return rule.kind === 'first-fret' && !n.ruleGives
      ? 'pinch it at the first fret, let it back as its row shows'
      : 'let it back as its row shows';
  if (n.ruleGives) return 'let it back {slack}';
  switch (rule.kind) {
    case 'first-fret':
      return `pinch it at the first fret, let it back ${FRETS[rule.times] ?? `${rule.times} times that far`} ({slack})`;
    case 'to-fret':
      return `let it back the distance from nut to fret ${rule.fret} ({slack})`;
    case 'post-spacings':
      return `let it back ${SPACINGS[rule.spacings] ?? `${rule.spacings} post spacings`} ({slack})`;
    case 'length':
      return rule.mm === 25.4
        ? 'let it back an inch ({slack})'
        : rule.mm === HAND_MM
          ? 'let it back a hand’s breadth ({slack})'
          : 'let it back {slack} by the ruler';
    case 'lift':
      return `lift it ${rule.heightMm} mm off the board to take up the slack ({slack})`;
    default:
      return 'let it back {slack}';
  }
}

/** So many post spacings, to the half that an eye can judge. */
function halves(spacings: number): string {
  const n = Math.max(0.5, Math.round(spacings * 2) / 2);
  return SPACINGS[n] ?? (n === 0.5 ? 'half a post spacing' : `${n} post spacings`);
}

/** Why a string under a tree is wound as it is; where not all of it has room, as much as goes on. */
const treeWhy = (build: Build, position: Position, n: StringNumbers): string =>
  n.rule.kind === 'whole' && n.ruleGives
    ? 'Nothing else presses it into its nut slot, so wind on as much as the post takes.'
    : treeWinding(build, position).why;

const endLeftLong = (build: Build, method: Method): string | undefined =>
  !isCut(build)
    ? undefined
    : method.trim.when === 'when-settled'
      ? 'Do not trim yet: that comes after the last stretch. If an end is in the way, cut it roughly once it holds, leaving 25 to 50 mm.'
      : method.trim.when === 'after-first-tension'
        ? 'Do not trim until it is near pitch and holding.'
        : undefined;

const tailMistake = (build: Build): MistakeId =>
  isPinned(build.tailEnd)
    ? 'pin-lifts'
    : build.stringEnd === 'plain'
      ? 'tail-slips'
      : build.tailEnd === 'uke-slot'
        ? 'knot-slips'
        : build.tailEnd.includes('tailpiece') && build.bridge === 'floating'
          ? 'not-hooked'
          : 'ball-loose';

const THROUGH: Quantity = {
  label: 'Through the hole',
  value: THROUGH_HOLE_MM,
  unit: 'mm',
  digits: 0,
  why: 'Long enough to bend and hold, short enough not to scratch.',
};

/** The post: slack, winds, direction. */
export const POST: StepDefinition[] = [
  {
    id: 'fit-post.cut',
    phase: 'fit-post',
    scope: 'string',
    provides: 'trim',
    undoable: false,
    kinds: CUTTING_KINDS,
    when: (b, m) => isCut(b) && m.trim.when === 'before-winding',
    compose: ({ build, numbersOf, names }, position, string) => {
      const n = numbersOf(position, string);
      if (woundWhole(n)) return null;
      // Under a string tree the thick strings are bent at the mark whatever the core looks like.
      const bend = string.wound && (!string.hexCore || underTree(build));
      return {
        title: `Measure ${names.of(position)}: ${bend ? 'bend it 90°, then cut' : 'cut'} {cut} past its post.`,
        detail:
          `About ${halves(n.cut.spacings)} further along. ${bend ? 'Cut beyond the bend: on a round core, an unbent cut lets the winding come loose. ' : ''}${underTree(build) ? treeWhy(build, position, n) : ''}`.trim(),
        reason:
          build.tuner === 'slotted-post'
            ? 'The end goes down inside the post, so cut it to length now.'
            : 'Usual method: cut to length before winding.',
        numbers: {
          cut: {
            label: 'Cut past the post',
            value: n.cut.pastPostMm,
            unit: 'mm',
            digits: 0,
            why: `${n.slackMm.toFixed(0)} mm of slack, half the post and ${THROUGH_HOLE_MM} mm for the end.`,
          },
        },
        gate: 'Tail end seated, right string, measured twice.',
        check: {
          question: 'Right string, tail seated, measured twice?',
          good: 'It lies in nut slot and saddle, the mark at the measured length.',
          ifNot: 'wrong-string',
        },
        mistakes: ['winding-loose', 'too-short', 'wrong-string'],
        tools: ['cutters', 'ruler'],
        parts: string.half
          ? [{ part: 'half-length string', fate: 'stock', count: 1 }]
          : [{ part: 'offcut', fate: 'discard', count: 1 }],
        cautions: ['bin-ends'],
        minutes: 0.4,
      };
    },
  },
  {
    id: 'fit-post.whole',
    phase: 'fit-post',
    scope: 'string',
    kinds: CUTTING_KINDS,
    when: (b, m) => isCut(b) && m.trim.when === 'before-winding',
    compose: ({ build, numbersOf, names }, position, string) =>
      woundWhole(numbersOf(position, string))
        ? {
            title: names.lead(position, 'do not cut; wind on the whole length.'),
            ...(underTree(build) ? { detail: treeWinding(build, position).why } : {}),
            reason: 'Low winds give a steeper angle over the nut.',
            minutes: 0.1,
          }
        : null,
  },
  {
    id: 'fit-post.thread',
    phase: 'fit-post',
    scope: 'string',
    kinds: CHANGE_KINDS,
    compose: ({ build, method, job, numbersOf, names }, position, string): StepBody => {
      const n = numbersOf(position, string);
      const { slack: length, winds } = windingQuantities(build, n);
      const hand = inHand(n.rule, n);
      const slack = hand ? { ...length, hand } : length;
      const name = names.of(position);
      // Where the ball can turn in its seat, the twist is let out once the end holds.
      const twist = turnsInSeat(build) ? '' : 'Let it hang and untwist first: a twisted string plays out of tune.';
      const notYet = isTrimmed(build, job.kind)
        ? endLeftLong(build, method)
        : isCut(build)
          ? 'Do not trim: nothing is cut this time.'
          : undefined;
      const shared = {
        mistakes: ['wrong-string', 'too-short'] as MistakeId[],
        drawing: 'post' as const,
        minutes: 0.2,
      };
      if (isLocking(build)) {
        return {
          ...shared,
          title: `Pull ${name} tight through its post and tighten the lock by hand.`,
          detail: `Hand-tight only, no pliers. ${twist}`.trim(),
          reason: 'The lock holds it, so it needs no slack.',
          numbers: { winds },
          ...(notYet ? { notYet } : {}),
          mistakes: ['lock-slips', 'wrong-string'],
        };
      }
      if (build.head === 'pegbox') {
        return {
          ...shared,
          title: `Thread ${name} through its peg, with {through} out the other side.`,
          detail: `In from the top; bend it back where it comes out. Wind on the rest; do not cut it. ${twist}`.trim(),
          reason: 'Uncut, it can come off and go back on.',
          numbers: { through: THROUGH, slack, winds },
        };
      }
      if (build.tuner === 'slotted-post') {
        return {
          ...shared,
          title: `Push ${name} end-first down into its post and bend it over the edge.`,
          detail: `Right to the bottom of the hole, a crisp bend, then hold it there. ${twist}`.trim(),
          reason: 'The end is inside the post: nothing left to catch a hand.',
          numbers: { slack, winds },
        };
      }
      if (underTree(build)) {
        return {
          ...shared,
          title: `Thread ${name} through its post: ${names.several ? 'leave what its row shows' : woundWhole(n) ? 'wind on its whole length' : 'leave {slack}'}.`,
          detail: `${treeWhy(build, position, n)} ${twist}`.trim(),
          reason: 'Too few winds here make the open string rattle, which sounds like a bad nut.',
          numbers: { slack, winds },
          ...(notYet ? { notYet } : {}),
        };
      }
      const word = postWord(build);
      return {
        ...shared,
        title: `Pull ${name} tight through its ${word}, ${letBack(n.rule, n, names.several)}.`,
        detail:
          word === 'roller'
            ? `In through the hole from above, back over the roller and under the string, so the first wind lies on the string end; a thin string goes round once more. ${twist}`
            : `${build.head === 'in-line' ? '' : 'From the middle of the headstock outwards. '}${HOLE_WORDS[method.hole]} Bend the end where it leaves the hole. ${twist}`.trim(),
        reason: 'Slack becomes winds: too little slips, too much never settles.',
        numbers: { slack, winds },
        ...(notYet ? { notYet } : {}),
      };
    },
  },
  {
    id: 'fit-post.wind',
    phase: 'fit-post',
    scope: 'string',
    provides: 'wind-post',
    kinds: CHANGE_KINDS,
    compose: ({ build, method, numbersOf, names }, position, string): StepBody => {
      const n = numbersOf(position, string);
      const { winds, stack } = windingQuantities(build, n);
      return isLocking(build)
        ? takeUp(build, position, winds, names)
        : wind(build, method, position, string, n, { winds, stack }, names);
    },
  },
];

/** Whether a ball sits in a hole in which it can turn. */
const turnsInSeat = (build: Build): boolean => TAIL_END[build.tailEnd].holds === 'ball-in-hole';

const twistOut = (build: Build): string =>
  turnsInSeat(build) ? ' Then let the twist out: free the ball so it can turn, and reseat it.' : '';

function takeUp(build: Build, position: Position, winds: Quantity, names: Names): StepBody {
  return {
    title: names.lead(
      position,
      `hold it in the nut slot and turn the post ${names.several && build.head !== 'in-line' ? 'so the string leaves on the inside' : tightens(build.head, position.side, build.handedness)}.`,
    ),
    detail: `It tightens within one turn.${names.several && build.head !== 'in-line' ? '' : ' The string leaves on the inside of the post.'}${twistOut(build)}`,
    reason: 'From the inside it runs straighter from the nut.',
    numbers: { winds },
    check: {
      question: 'On the inside, in its slot, holding?',
      good: 'It leaves on the inside and does not slip in the lock.',
      ifNot: 'wrong-side',
    },
    mistakes: ['wrong-side', 'lock-slips', 'out-of-slot', tailMistake(build)],
    tools: build.tuner === 'friction-peg' ? [] : ['winder'],
    drawing: 'post',
    minutes: 0.4,
  };
}

function wind(
  build: Build,
  method: Method,
  position: Position,
  string: StringToFit,
  n: StringNumbers,
  numbers: Record<string, Quantity>,
  names: Names,
): StepBody {
  const word = postWord(build);
  const turn = tightens(build.head, position.side, build.handedness);
  // The short string of a banjo has a nut and a peg of its own, beside the neck.
  const short = build.head === 'fifth-peg' && position.speakingLengthMm !== undefined;
  const advice = n.advice ? ` ${n.advice}` : '';
  if (build.head === 'pegbox') {
    const bass = build.family === 'double-bass';
    const cross = crossing(build, position, n.winds.turns);
    const direction = pegTurn(position.side, build.handedness);
    return {
      title: bass
        ? cross.nearlyWhole
          ? names.lead(
              position,
              'wind nearly all of it away from the wall, then cross over and finish straight from the nut.',
            )
          : names.lead(position, '{away} away from the wall, then cross over and finish straight from the nut.')
        : names.lead(position, 'hold it in the nut slot and wind over the top, towards the pegbox wall.'),
      detail: bass
        ? `Seen end-on from its gear side, the peg turns ${direction}. Finish so the string runs straight from nut to peg.${advice}`
        : `Looking at the peg head end-on, turn it ${direction}. The last winds press against the wall and pull the peg in.${advice}`,
      reason: bass
        ? 'A string that runs at an angle from the nut wears it and slips.'
        : 'A peg that is pulled in holds; one pushed out slips.',
      numbers: {
        ...numbers,
        ...(bass
          ? {
              away: {
                label: 'Away from the wall',
                value: cross.turnsAway,
                unit: 'winds',
                digits: 0,
                why: 'Then cross over those winds and finish towards the middle.',
              } satisfies Quantity,
            }
          : {}),
      },
      check: {
        question: bass ? 'Straight from nut to peg?' : 'Last winds against the wall, string in its nut slot?',
        good: bass ? 'Seen from above, it does not bend sideways at the nut.' : 'The peg stays put when you let go.',
        ifNot: bass ? 'winds-cross' : 'peg-slips',
      },
      mistakes: [
        ...(bass ? (['slips-on-peg'] as const) : (['peg-slips'] as const)),
        'winds-cross',
        'out-of-slot',
        'not-hooked',
        'bridge-tipped',
      ],
      tools: bass ? ['winder'] : [],
      drawing: 'post',
      minutes: bass ? 3 : 1.2,
    };
  }
  const direction = turn === 'over-the-top' ? 'over the top' : turn;
  const school = windsOf(method, string.wound);
  // Where the two sides turn different ways, each row of several says its own.
  const byRow = names.several && turn !== 'over-the-top' && build.head !== 'in-line';
  return {
    title: names.lead(
      position,
      short
        ? 'seat it at its own nut beside the 5th fret; turn its peg so it winds on the side away from the other strings.'
        : `hold it in the nut slot and turn the ${word} ${byRow ? 'so the string leaves on the inside' : direction}.`,
    ),
    detail: `${word === 'roller' ? 'Lay the winds side by side, towards the edge of the slot, so the string runs straight.' : `Work from the headstock end, forearm on the body; first wind by hand, the other fingers keeping the string tight. ${WIND_WORDS[school]}`} ${word === 'roller' ? 'Do not stack them.' : byRow ? '' : 'The string leaves on the inside.'}${build.extras.includes('string-tree') && !isBowed(build.family) ? ' If it runs under the string tree, put it under now.' : ''} Stop when it just holds.${twistOut(build)}${advice}`,
    reason: 'Winds running down the post press the string into its slot.',
    numbers,
    check: {
      question: word === 'roller' ? 'No winds crossed, in its slot?' : 'On the inside, no winds crossed, in its slot?',
      good:
        word === 'roller'
          ? 'Winds lie side by side.'
          : 'It leaves low, on the inside, and each wind is below the last.',
      ifNot: word === 'roller' ? 'winds-cross' : 'wrong-side',
    },
    mistakes: [
      ...(word === 'roller' ? [] : (['wrong-side'] as const)),
      'winds-cross',
      'out-of-slot',
      'slips-at-post',
      'caught',
      tailMistake(build),
      ...(build.family === 'bass-guitar' ? (['open-rattle'] as const) : []),
    ],
    tools: build.tuner === 'friction-peg' ? [] : ['winder'],
    drawing: 'post',
    // Turning takes the time; folding an end under itself a little more.
    minutes: 0.3 + 0.07 * n.winds.turns + (school === 'self-lock' ? 0.1 : 0),
  };
}
