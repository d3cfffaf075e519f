import type { Build, Position } from '../../instruments/build';
import { isBowed } from '../../instruments/build';
import { comesLoose, isPinned } from '../../parts/tailEnds';
import type { MistakeId } from '../mistakes';
import {
  CHANGE_KINDS,
  type Method,
  type Quantity,
  type Situation,
  type StepBody,
  type StepDefinition,
  type StringToFit,
} from '../types';

const bendAtBall: Quantity = {
  label: 'Bend from the ball',
  value: 12,
  to: 19,
  unit: 'mm',
  digits: 0,
  why: 'A small bend lets the ball swing against the bridge plate instead of sitting on the tip of the pin.',
};

/** The thinnest of the plain strings slips most. */
const isThinnest = ({ strings }: Situation, string: StringToFit) =>
  !string.wound && strings.every((s) => s.wound || s.gaugeMm >= string.gaugeMm - 1e-9);

/** From this gauge a plain string takes only two turns. Common practice, no source. */
const THICK_PLAIN_MM = 0.95;

/**
 * How often a tied string goes round itself: wound basses hold with one or two turns, trebles take at
 * least two, a thin first three, a thick third only two. Common practice, no source.
 */
export function tiesFor(
  tailEnd: Extract<Build['tailEnd'], 'tie-block-6' | 'tie-block-12' | 'uke-tie'>,
  string: Pick<StringToFit, 'gaugeMm' | 'wound'>,
  thinnest: boolean,
  ties: Method['ties'],
): { turns: number; why: string } {
  const size = `${string.gaugeMm.toFixed(2)} mm`;
  if (tailEnd === 'tie-block-12')
    return string.wound
      ? { turns: 1, why: `A wound ${size} string holds with one tuck.` }
      : { turns: 2, why: `A plain ${size} string needs two tucks.` };
  if (thinnest && !string.wound)
    return {
      turns: ties.thinnest,
      why: `The thinnest string (${size}) slips most${ties.thinnest > ties.plain ? ': one more tuck and a longer tail' : ''}.`,
    };
  if (string.wound) return { turns: ties.wound, why: `A wound ${size} string grips by its winding.` };
  // A thick plain third has no room for more.
  return string.gaugeMm >= THICK_PLAIN_MM
    ? { turns: 2, why: `Two tucks hold a ${size} string, and it has room for no more.` }
    : { turns: ties.plain, why: `${ties.plain === 2 ? 'Two' : 'Three'} tucks hold a ${size} string.` };
}

function tie(s: Situation, position: Position, string: StringToFit): StepBody {
  const { build, names } = s;
  const tailEnd = build.tailEnd as 'tie-block-6' | 'tie-block-12' | 'uke-tie';
  const thinnest = isThinnest(s, string);
  const { turns, why } = tiesFor(tailEnd, string, thinnest, s.method.ties);
  const name = names.of(position);
  const count: Quantity = {
    label: tailEnd === 'uke-tie' ? 'Tucks' : 'Tucks',
    value: turns,
    unit: 'count',
    digits: 0,
    why,
  };
  const isLast = s.order.at(-1)?.number === position.number;
  const tail: Quantity = {
    label: 'Tail',
    value: turns >= 3 ? 40 : 30,
    unit: 'mm',
    digits: 0,
    why:
      tailEnd !== 'tie-block-12' && !isLast
        ? 'Long enough for the next string to hold it down.'
        : 'Enough to hold until it is trimmed to about 10 mm.',
  };
  const times =
    turns === 1
      ? 'once'
      : names.several
        ? '{turns} times'
        : turns === 2
          ? 'twice'
          : turns === 3
            ? 'three times'
            : '{turns} times';
  const title = {
    'uke-tie': `Tie ${name}: through the hole, up the inside, tuck the tail ${times}.`,
    'tie-block-6': `Tie ${name}: in from the soundhole side, back over, under the string, tuck ${times}.`,
    'tie-block-12': `Tie ${name}: through the low hole, over, back through the high hole, tuck under ${times}.`,
  }[tailEnd];
  const detail = {
    'uke-tie': `Back under the string; the last tuck lies on the back face, below the edge. Leave a {tail} tail${isLast ? ': no string follows, so tuck it under the one beside it.' : ', for the next string to trap.'}`,
    'tie-block-6':
      'The last tuck lies on the back face, below the edge of the block; on top it slips. Leave a {tail} tail.',
    'tie-block-12': 'Pull it snug: two holes give a steeper break angle over the saddle. Leave a {tail} tail.',
  }[tailEnd];
  const knot =
    thinnest && s.method.ties.safetyKnot ? ' Tie a small knot at the very end: it stops a creeping tail.' : '';
  const flexible = string.wound && tailEnd !== 'uke-tie' ? ' If one end is softer, tie that end.' : '';
  return {
    title,
    detail: `${detail}${knot}${flexible}`,
    reason: 'Tail end first: if it slips here, no winding will hold it.',
    numbers: { turns: count, tail },
    check: {
      question: tailEnd === 'tie-block-12' ? 'Tucked under and pulled tight?' : 'Last tuck below the edge?',
      good:
        tailEnd === 'tie-block-12'
          ? 'It lies flat behind the block; nothing crosses on top.'
          : 'It lies on the back face; nothing crosses on top.',
      ifNot: 'tuck-on-top',
    },
    mistakes: ['tuck-on-top', 'tail-slips', 'wrong-string'],
    drawing: 'tail',
    minutes: 0.6,
  };
}

interface Fit {
  title: (name: string, end: string) => string;
  detail?: (build: Build) => string;
  question: string;
  good: string;
  ifNot: MistakeId;
  mistakes: MistakeId[];
  minutes: number;
}

const END_WORDS: Record<Build['stringEnd'], string> = {
  ball: 'ball',
  'double-ball': 'ball',
  loop: 'loop',
  plain: 'end',
  knot: 'knot',
};
const end = (build: Build) => END_WORDS[build.stringEnd];

const spacers = (build: Build) =>
  build.extras.includes('ball-end-spacers') ? 'First put on the ball-end spacers you noted. ' : '';

/** Open slots, into which the ball is hung from in front: nothing is fed through. */
const SLOTTED: Fit = {
  title: (name) => `Hang ${name} by its ball in the open slot.`,
  detail: (b) => `${spacers(b)}Keep light tension on it: a slack ball falls out. Lay the string in its saddle.`,
  question: 'Ball down in its slot, string in its saddle?',
  good: 'Light tension holds it and the ball does not ride up.',
  ifNot: 'ball-loose',
  mistakes: ['ball-loose', 'tailpiece-fell', 'wrong-string'],
  minutes: 0.3,
};

const FITS: Partial<Record<Build['tailEnd'], Fit>> = {
  'through-body': {
    title: (name) => `Feed ${name} through from the back until the ball seats in its ferrule.`,
    question: 'Ball seated in the ferrule?',
    good: 'A tug from the front does not move it.',
    ifNot: 'ball-loose',
    mistakes: ['ball-loose', 'caught', 'wrong-string'],
    minutes: 0.4,
  },
  'rear-block': {
    title: (name) => `Feed ${name} through the block from behind until the ball seats.`,
    question: 'Ball seated in the block?',
    good: 'A tug does not move it, and the ball does not stand proud at the back.',
    ifNot: 'ball-loose',
    mistakes: ['ball-loose', 'caught', 'wrong-string'],
    minutes: 0.4,
  },
  'stop-tailpiece': {
    title: (name) => `Feed ${name} straight through the tailpiece until the ball seats.`,
    detail: (b) => `${spacers(b)}Lay it in its saddle.`,
    question: 'Ball seated, string in its saddle?',
    good: 'Light tension holds it and the bridge has not shifted.',
    ifNot: 'ball-loose',
    mistakes: ['ball-loose', 'tailpiece-fell', 'wrong-string'],
    minutes: 0.4,
  },
  'stop-tailpiece-wrapped': {
    title: (name) => `Feed ${name} in from the front of the tailpiece, over the top, towards the bridge.`,
    detail: (b) =>
      `${spacers(b)}Wrap it only if it was wrapped before. Lay it in its saddle; no winding end may stand up and catch the hand.`,
    question: 'Ball seated, wrap lying flat, string in its saddle?',
    good: 'It lies close over the top and nothing catches the hand.',
    ifNot: 'ball-loose',
    mistakes: ['ball-loose', 'tailpiece-fell', 'wrong-string'],
    minutes: 0.5,
  },
  'wrap-around': {
    title: (name) => `Feed ${name} in from the front of the bridge and wrap it over the top.`,
    detail: (b) => `${spacers(b)}Pinch a crisp bend where it leaves the top.`,
    question: 'Ball seated, string over the top?',
    good: 'Light tension holds it, and the bridge sits on its studs.',
    ifNot: 'ball-loose',
    mistakes: ['ball-loose', 'tailpiece-fell', 'wrong-string'],
    minutes: 0.4,
  },
  'loop-tailpiece': {
    title: (_, end) => `Hook ${end} onto its own hook in the tailpiece.`,
    detail: (b) =>
      `${b.stringEnd === 'loop' ? 'Open the loop a little first. ' : ''}Take it under its finger or through its hole as you noted; keep light tension on it so it does not jump off.`,
    question: 'Hooked, and on its own path?',
    good: 'It stays on its hook under light tension and lies in its bridge slot.',
    ifNot: 'not-hooked',
    mistakes: ['not-hooked', 'wrong-string'],
    minutes: 0.4,
  },
  'tailpiece-plain': {
    title: (_, end) => `Seat ${end} in its tailpiece slot.`,
    detail: (b) =>
      `Check the ${end(b)} is seated before you wind; ease a tight slot with a small rasp. Lay the string in its bridge slot.`,
    question: 'End seated in its slot?',
    good: 'A light tug does not lift it.',
    ifNot: 'not-hooked',
    mistakes: ['not-hooked', 'wrong-string'],
    minutes: 0.4,
  },
  'tailpiece-fine-tuners': {
    title: (_, end) => `Hook ${end} into its fine tuner.`,
    detail: (b) =>
      `Check the ${end(b)} is seated ${b.stringEnd === 'loop' ? 'on the hook' : 'between the prongs'} and the fine tuner is at mid travel before you wind. Lay the string in its bridge slot.`,
    question: 'End seated, fine tuner at mid travel?',
    good: 'A light tug does not lift it, and the screw turns both ways.',
    ifNot: 'not-hooked',
    mistakes: ['not-hooked', 'wrong-string'],
    minutes: 0.4,
  },
};

/** The tail end, always first. */
export const TAIL: StepDefinition[] = [
  {
    id: 'fit-tail.string',
    phase: 'fit-tail',
    scope: 'string',
    provides: 'seat-tail',
    kinds: CHANGE_KINDS,
    compose: (s, position, string): StepBody => {
      const { build, names } = s;
      const name = names.of(position);
      const reason = 'Tail end first: what is not seated here slips or pulls out later.';
      const extras = extrasOn(s, position);
      const tail = build.tailEnd;
      if (tail === 'tie-block-6' || tail === 'tie-block-12' || tail === 'uke-tie') return tie(s, position, string);
      if (tail === 'pin-bridge') {
        const knot = build.stringEnd === 'knot';
        return {
          title: knot
            ? `Knot ${names.part('end', position)}; knot in, pin after it, groove facing the nut.`
            : `Bend ${name} {bend} from the ball; ball in, pin after it, groove facing the nut.`,
          detail: `Press the pin lightly and pull up on the string: feel the ${end(build)} slide off the tip and against the bridge plate. Tug.`,
          reason,
          numbers: knot ? {} : { bend: bendAtBall },
          check: {
            question: `${knot ? 'Knot' : 'Ball'} against the plate?`,
            good: 'A tug does not move it, and the pin stays level.',
            ifNot: 'pin-lifts',
          },
          cautions: ['finger-pressure'],
          mistakes: ['pin-lifts', 'wrong-string'],
          drawing: 'tail',
          minutes: 0.6,
        };
      }
      if (tail === 'uke-slot') {
        const thin = isThinnest(s, string);
        return {
          title: `Knot ${names.part('end', position)} and draw it down into its slot.`,
          detail: thin ? 'Pass the end through the knot once more: a thin string needs a bigger knot.' : undefined,
          reason,
          check: {
            question: 'Knot caught below the slot?',
            good: 'A firm tug does not pull it through.',
            ifNot: 'knot-slips',
          },
          mistakes: ['knot-slips', 'wrong-string'],
          drawing: 'tail',
          minutes: 0.6,
        };
      }
      const fit = build.extras.includes('tail-slotted') ? SLOTTED : (FITS[tail] as Fit);
      return {
        title: fit.title(name, names.part('end', position)),
        detail: [fit.detail?.(build), extras].filter(Boolean).join(' ') || undefined,
        reason,
        check: { question: fit.question, good: fit.good, ifNot: fit.ifNot },
        mistakes: fit.mistakes,
        drawing: 'tail',
        minutes: fit.minutes,
      };
    },
  },
  {
    // The tailpiece was lifted off: its strings are threaded outside, then it goes back.
    id: 'fit-tail.hang',
    phase: 'fit-tail',
    scope: 'group',
    kinds: CHANGE_KINDS,
    when: (b, m) => comesLoose(b) && m.hanging === 'lifted',
    compose: ({ build, group }) =>
      group.length < build.positions.length
        ? null
        : {
            title: `Hang the ${build.tailEnd === 'wrap-around' ? 'bridge' : 'tailpiece'} back on its studs with the strings threaded.`,
            detail: 'Hold the height posts so they do not turn. Keep it down by hand until the first string holds it.',
            reason: 'Only your hand holds it now, so fit the first string at once.',
            notYet: 'Do not let go until the first string holds.',
            check: {
              question: 'Down on both studs, the right way round?',
              good: build.extras.includes('bridge-screws')
                ? 'It sits level, the adjusting screws facing the way you noted.'
                : 'It sits level, its marks as in the photograph.',
              ifNot: 'tailpiece-fell',
            },
            mistakes: ['tailpiece-fell'],
            minutes: 0.4,
          },
  },
  {
    id: 'fit-tail.feel',
    phase: 'fit-tail',
    scope: 'group',
    kinds: CHANGE_KINDS,
    when: (b) => isPinned(b.tailEnd),
    compose: ({ build, group, names }) => {
      const what = build.stringEnd === 'knot' ? 'knot' : 'ball';
      return {
        title: `Reach inside and feel the ${what}${group.length > 1 ? 's' : ''} of ${names.group(group)}.`,
        detail: 'Only possible now, while the strings are slack.',
        reason: 'One left on the tip of its pin pushes the pin out or takes days to settle.',
        check: {
          question: `${group.length > 1 ? `Every ${what}` : `The ${what}`} tight against the plate?`,
          good: `No ${what} hangs free or sits on the tip of its pin.`,
          ifNot: 'pin-lifts',
        },
        mistakes: ['pin-lifts'],
        minutes: group.length > 1 ? 0.4 : 0.2,
      };
    },
  },
];

/** What moves over to the new string. */
function extrasOn({ build, order }: Situation, position: Position): string {
  const has = (e: Build['extras'][number]) => build.extras.includes(e);
  const first = order[0]?.number === position.number;
  return [
    has('string-sleeves') && isBowed(build.family) ? 'Slide the sleeve on now, to sit on the bridge edge.' : '',
    first && has('felt-washer') ? 'Put the felt washer back where it was.' : '',
    first && has('pickup-clip') ? 'Put the pickup clip back where it was.' : '',
  ]
    .filter(Boolean)
    .join(' ');
}
