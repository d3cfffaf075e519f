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
  'one-over': 'The first turn passes above the tail, the rest below it: they clamp it.',
  'spiral-down': 'Every turn goes below the last, down towards the head.',
  'self-lock':
    'Tail round the post against the winding, under the string, pulled tight, then up and back over it: now turn.',
  'two-over': 'Two turns above the tail, then under: plain strings slip more.',
};

const HOLE_WORDS: Record<Method['hole'], string> = {
  across: 'Set the hole across the neck.',
  along: 'Set the hole along the neck.',
  angled: 'Set the hole at about 45° to the inside.',
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
      ? 'pinch it at the first fret, let it back as its row says'
      : 'let it back as its row says';
  if (n.ruleGives) return 'let it back {slack}';
  switch (rule.kind) {
    case 'first-fret':
      return `pinch it at the first fret, let it back ${FRETS[rule.times] ?? `${rule.times} times that far`} ({slack})`;
    case 'to-fret':
      return `let it back as far as from the nut to fret ${rule.fret} ({slack})`;
    case 'post-spacings':
      return `let it back ${SPACINGS[rule.spacings] ?? `${rule.spacings} post spacings`} ({slack})`;
    case 'length':
      return rule.mm === 25.4
        ? 'let it back an inch ({slack})'
        : rule.mm === HAND_MM
          ? 'let it back a hand’s breadth ({slack})'
          : 'let it back {slack} by ruler';
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
    ? 'Nothing else presses it into its nut slot, so as much of it goes on as the post takes.'
    : treeWinding(build, position).why;

const endLeftLong = (build: Build, method: Method): string | undefined =>
  !isCut(build)
    ? undefined
    : method.trim.when === 'when-settled'
      ? 'Do not trim yet: that comes after the last stretch. An end in the way is cut roughly, 25 to 50 mm, once it holds.'
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
  why: 'Enough for a bend that holds, short enough not to scratch.',
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
          `About ${halves(n.cut.spacings)} along the head. ${bend ? 'Cut beyond the bend: on a round core a cut without a bend lets the winding come loose. ' : ''}${underTree(build) ? treeWhy(build, position, n) : ''}`.trim(),
        reason:
          build.tuner === 'slotted-post'
            ? 'The end goes down the post, so its length is decided now.'
            : 'House method: cut to length before winding.',
        numbers: {
          cut: {
            label: 'Cut past the post',
            value: n.cut.pastPostMm,
            unit: 'mm',
            digits: 0,
            why: `${n.slackMm.toFixed(0)} mm of slack, half the post and ${THROUGH_HOLE_MM} mm for its end.`,
          },
        },
        gate: 'Tail end seated, right string, measured twice.',
        check: {
          question: 'Right string, tail seated, measured twice?',
          good: 'It lies in its slots and the mark is where the number says.',
          ifNot: 'wrong-string',
        },
        mistakes: ['winding-loose', 'too-short', 'wrong-string'],
        tools: ['cutters', 'ruler'],
        parts: string.half
          ? [{ part: 'other half', fate: 'stock', count: 1 }]
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
            title: names.lead(position, 'do not cut it; its whole length goes on.'),
            ...(underTree(build) ? { detail: treeWinding(build, position).why } : {}),
            reason: 'What is wound far down pulls down at the nut.',
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
          ? 'Do not trim: nothing is cut in this job.'
          : undefined;
      const shared = {
        mistakes: ['wrong-string', 'too-short'] as MistakeId[],
        drawing: 'post' as const,
        minutes: 0.2,
      };
      if (isLocking(build)) {
        return {
          ...shared,
          title: `Pull ${name} taut through its post and close the lock by hand.`,
          detail: `Hand-tight only, no pliers. ${twist}`.trim(),
          reason: 'The lock holds it: slack would only be wound off again.',
          numbers: { winds },
          ...(notYet ? { notYet } : {}),
          mistakes: ['lock-slips', 'wrong-string'],
        };
      }
      if (build.head === 'pegbox') {
        return {
          ...shared,
          title: `Put the end of ${name} {through} through the hole of its peg.`,
          detail: `From the top, bent back where it comes out. The rest is wound: it is not cut. ${twist}`.trim(),
          reason: 'Whole, it can be taken off and put on again.',
          numbers: { through: THROUGH, slack, winds },
        };
      }
      if (build.tuner === 'slotted-post') {
        return {
          ...shared,
          title: `Push the end of ${name} down into its post and bend it over the edge.`,
          detail: `Down the middle to the bottom, a crisp bend, then hold it there. ${twist}`.trim(),
          reason: 'The end is inside the post: nothing is left to prick a hand.',
          numbers: { slack, winds },
        };
      }
      if (underTree(build)) {
        return {
          ...shared,
          title: `Put ${name} through its post: ${names.several ? 'leave what its row says' : woundWhole(n) ? 'wind its whole length' : 'leave {slack}'}.`,
          detail: `${treeWhy(build, position, n)} ${twist}`.trim(),
          reason: 'Too few winds here give an open-string rattle that looks like a bad nut.',
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
            ? `Through the hole from above, back over the roller and under the string, so that the first turn lies on the tail; a thin one once more round. ${twist}`
            : `${build.head === 'in-line' ? '' : 'From the middle of the head outwards. '}${HOLE_WORDS[method.hole]} Bend the end where it leaves the hole. ${twist}`.trim(),
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
  turnsInSeat(build) ? ' Then let its twist out: free the ball so that it can turn, and seat it again.' : '';

function takeUp(build: Build, position: Position, winds: Quantity, names: Names): StepBody {
  return {
    title: names.lead(
      position,
      `finger in the nut slot, turn the post ${names.several && build.head !== 'in-line' ? 'so that the string leaves on the inside' : tightens(build.head, position.side, build.handedness)}.`,
    ),
    detail: `It comes up within one turn.${names.several && build.head !== 'in-line' ? '' : ' The string leaves on the inside of the post.'}${twistOut(build)}`,
    reason: 'On the inside it pulls straight from the nut.',
    numbers: { winds },
    check: {
      question: 'On the inside, in its slot, holding?',
      good: 'It leaves on the inside and does not creep in the lock.',
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
          ? names.lead(position, 'wind almost the whole string away from the wall, cross over, then run straight.')
          : names.lead(position, '{away} away from the wall, cross over, then run straight from the nut.')
        : names.lead(position, 'finger in the nut slot, wind over the top towards the pegbox wall.'),
      detail: bass
        ? `Seen from its own end the peg turns ${direction}. The last turns lie so that the string runs straight from the nut to the peg.${advice}`
        : `Seen from its own end the peg turns ${direction}. The last turns press against the wall and pull the peg in.${advice}`,
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
                unit: 'turns',
                digits: 0,
                why: 'Then across its own coils, so that the rest lies towards the middle.',
              } satisfies Quantity,
            }
          : {}),
      },
      check: {
        question: bass ? 'Straight from nut to peg?' : 'Last turns against the wall, in its nut slot?',
        good: bass ? 'Seen from above the string makes no corner at the nut.' : 'The peg stays where it is let go.',
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
        ? 'under its own nut beside the fifth fret; turn its peg so that it winds on the side away from the other strings.'
        : `finger in the nut slot, turn the ${word} ${byRow ? 'so that the string leaves on the inside' : direction}.`,
    ),
    detail: `${word === 'roller' ? 'Coils lie side by side and run towards the edge of the slot, so that it pulls straight.' : `Work from the head end, forearm on the body; first turn by hand, the other fingers keeping the string tight. ${WIND_WORDS[school]}`} ${word === 'roller' ? 'Stack none on another.' : byRow ? '' : 'The string leaves on the inside.'}${build.extras.includes('string-tree') && !isBowed(build.family) ? ' Where the string tree holds it, it goes under the tree now.' : ''} Stop when it just holds.${twistOut(build)}${advice}`,
    reason: 'Winds that run down press the string into its nut slot.',
    numbers,
    check: {
      question: word === 'roller' ? 'No winds crossed, in its slot?' : 'On the inside, no winds crossed, in its slot?',
      good:
        word === 'roller'
          ? 'Coils lie side by side.'
          : 'It leaves low on the inside and each wind lies below the last.',
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
