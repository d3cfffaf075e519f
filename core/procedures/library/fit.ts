import { tightens } from '../../winding/post';
import { sayRule, slackRuleFor, stringNumbers, windingQuantities } from '../numbers';
import type { Method, Quantity, StepDefinition } from '../types';
import { groupLabel, stringLabel } from '../words';

const CROSS_HOLE_POSTS = ['plain-post', 'friction-peg', 'planetary'];

const WIND_WORDS: Record<Method['winds'], string> = {
  'one-over': 'The first turn passes above the string’s own end, the rest below it: they clamp it.',
  'spiral-down': 'Every turn goes below the last, down towards the head.',
  'self-lock': 'Take the end back under the standing string and fold it up over it before turning.',
};

const HOLE_WORDS: Record<Method['hole'], string> = {
  across: 'Set the hole across the neck.',
  along: 'Set the hole along the neck.',
  angled: 'Set the hole at about 45° to the inside.',
};

const bendAtBall: Quantity = {
  label: 'Bend from the ball',
  value: 12,
  to: 19,
  unit: 'mm',
  digits: 0,
  why: 'A small bend lets the ball swing against the bridge plate instead of sitting on the tip of the pin.',
};

/** Tucks under the standing string: thin strings slip more. Gauges in mm; common practice. */
function tucksFor(gaugeMm: number, thinnest: boolean): Quantity {
  const value = thinnest ? 3 : 2;
  return {
    label: 'Tucks',
    value,
    unit: 'count',
    digits: 0,
    why: thinnest
      ? `The thinnest string (${gaugeMm.toFixed(2)} mm) slips most: one tuck more and a longer tail.`
      : `Two tucks hold a ${gaugeMm.toFixed(2)} mm string.`,
  };
}

/** Tail end first, post second. */
export const FIT: StepDefinition[] = [
  {
    id: 'fit-tail.pin',
    phase: 'fit-tail',
    scope: 'string',
    provides: 'seat-tail',
    when: (b) => b.tailEnd === 'pin-bridge',
    compose: ({ build }, position) => ({
      title: `Bend ${stringLabel(build, position)} {bend} from the ball; ball in, pin on it, groove to the string.`,
      detail:
        'Pull up on the string while pressing the pin: feel the ball slide off the tip and against the plate. Tug.',
      numbers: { bend: bendAtBall },
      check: {
        question: 'Ball against the plate?',
        good: 'A tug moves nothing and the pin stays level.',
        ifNot: 'pin-lifts',
      },
      cautions: ['finger-pressure'],
      mistakes: ['pin-lifts', 'wrong-string'],
      drawing: 'tail',
      minutes: 0.6,
    }),
  },
  {
    id: 'fit-tail.feel-balls',
    phase: 'fit-tail',
    scope: 'group',
    when: (b) => b.tailEnd === 'pin-bridge',
    compose: ({ build, group }) => ({
      title: `Reach inside and feel the ball${group.length > 1 ? 's' : ''} of ${groupLabel(build, group)}.`,
      detail: 'Only possible now, while the strings are slack.',
      check: {
        question: 'Every ball tight against the plate?',
        good: 'No ball hangs free or sits on the tip of its pin.',
        ifNot: 'pin-lifts',
      },
      mistakes: ['pin-lifts'],
      minutes: 0.5,
    }),
  },
  {
    id: 'fit-tail.uke-tie',
    phase: 'fit-tail',
    scope: 'string',
    provides: 'seat-tail',
    when: (b) => b.tailEnd === 'uke-tie',
    compose: ({ build, strings }, position, string) => {
      const thinnest = string.gaugeMm <= Math.min(...strings.map((s) => s.gaugeMm)) + 1e-9;
      return {
        title: `Tie ${stringLabel(build, position)}: through, up the inside, tuck {tucks} times.`,
        detail:
          'Back under the standing string; the last tuck lies on the back face, below the edge. Leave {tail} of tail, to be trapped by the next string.',
        numbers: {
          tucks: tucksFor(string.gaugeMm, thinnest),
          tail: {
            label: 'Tail',
            value: thinnest ? 40 : 30,
            unit: 'mm',
            digits: 0,
            why: 'Long enough for the next string to hold it down; trimmed at the end.',
          },
        },
        check: {
          question: 'Last tuck below the edge of the block?',
          good: 'It lies on the back face; nothing crosses on top.',
          ifNot: 'tuck-on-top',
        },
        mistakes: ['tuck-on-top', 'tail-slips', 'wrong-string'],
        drawing: 'tail',
        minutes: 1,
      };
    },
  },
  {
    id: 'fit-post.thread',
    phase: 'fit-post',
    scope: 'string',
    when: (b) => CROSS_HOLE_POSTS.includes(b.tuner),
    compose: ({ build, method }, position, string) => {
      const n = stringNumbers(build, method, position, string);
      const { slack, winds } = windingQuantities(build, n) as Record<'slack' | 'winds', Quantity>;
      const rule = slackRuleFor(method, string);
      // The rule as the house says it; a ruler's length is said in frets too, for those who measure by the neck.
      const spoken =
        rule.kind === 'first-fret' ? sayFrets(rule.times) : `${sayRule(rule)}, ${n.slackFrets.toFixed(1)} frets`;
      return {
        title: `Pull ${stringLabel(build, position)} through, then back {slack}: ${spoken}.`,
        detail: `${HOLE_WORDS[method.hole]} Bend the end where it leaves the hole. Let any twist run out first: a twisted string plays out of tune.`,
        numbers: { slack, winds },
        notYet:
          method.trim.when === 'when-settled'
            ? 'Leave the end long: trim after the last stretch.'
            : 'Leave the end long until the first tension holds.',
        mistakes: ['wrong-string'],
        drawing: 'post',
        minutes: 0.4,
      };
    },
  },
  {
    id: 'fit-post.wind',
    phase: 'fit-post',
    scope: 'string',
    provides: 'wind-post',
    when: (b) => CROSS_HOLE_POSTS.includes(b.tuner),
    compose: ({ build, method }, position, string) => {
      const n = stringNumbers(build, method, position, string);
      const { winds, stack } = windingQuantities(build, n) as Record<'winds' | 'stack', Quantity>;
      const turn = tightens(build.head, position.side, build.handedness);
      const direction = turn === 'over-the-top' ? 'over the top' : turn;
      const verdict = {
        good: '',
        'too-few': ' Fewer than hold surely: leave a little more slack.',
        'too-many': ' More than settle well: leave less slack.',
        'no-room': ' More than the room under the hole: leave less slack.',
      }[n.winds.verdict];
      return {
        title: `${stringLabel(build, position)}: finger in the nut slot, turn the post ${direction}.`,
        detail: `${WIND_WORDS[method.winds]} The string leaves on the inside of the post. Stop when it just holds.${verdict}`,
        numbers: { winds, stack },
        check: {
          question: 'On the inside, no winds crossed, in its slot?',
          good: 'It leaves low on the inside and each wind lies below the last.',
          ifNot: 'wrong-side',
        },
        cautions: ['powered-winder'],
        mistakes: [
          'wrong-side',
          'winds-cross',
          'out-of-slot',
          'slips-at-post',
          ...(build.tailEnd === 'uke-tie' ? (['tail-slips'] as const) : (['pin-lifts'] as const)),
        ],
        tools: ['winder'],
        drawing: 'post',
        minutes: 0.8,
      };
    },
  },
];

function sayFrets(frets: number): string {
  if (frets === 1) return 'one fret';
  if (frets === 1.5) return 'a fret and a half';
  if (frets === 0.5) return 'half a fret';
  return `${frets} frets`;
}
