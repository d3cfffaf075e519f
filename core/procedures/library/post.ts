import type { Build, Position } from '../../instruments/build';
import { isBowed } from '../../instruments/validity';
import { isPinned } from '../../parts/tailEnds';
import { crossing, treeWinding } from '../../winding/bass';
import { THROUGH_HOLE_MM } from '../../winding/cut';
import { pegTurn, tightens } from '../../winding/post';
import { type SlackRule, sayRule } from '../../winding/slack';
import { isCut, isTrimmed } from '../method';
import { insteadOfRule, isLocking, type StringNumbers, underTree, windingQuantities, woundWhole } from '../numbers';
import type { MistakeId } from '../reference';
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
import { postWord, stringLabel } from '../words';

const WIND_WORDS: Record<Method['winds'] | 'two-over', string> = {
  'one-over': 'The first turn passes above the string’s own end, the rest below it: they clamp it.',
  'spiral-down': 'Every turn goes below the last, down towards the head.',
  'self-lock': 'Take the end back under the standing string and fold it up over it before turning.',
  'two-over': 'Two turns above the string’s own end, then under: plain strings slip more.',
};

const HOLE_WORDS: Record<Method['hole'], string> = {
  across: 'Set the hole across the neck.',
  along: 'Set the hole along the neck.',
  angled: 'Set the hole at about 45° to the inside.',
};

/** A slack rule as one would say it at the bench. */
function spoken(rule: SlackRule, n: StringNumbers): string {
  if (n.ruleGives) return `about ${n.slackFrets.toFixed(1)} frets`;
  if (rule.kind === 'first-fret') {
    if (rule.times === 1) return 'about one fret';
    if (rule.times === 1.5) return 'about a fret and a half';
    return `about ${rule.times.toFixed(1)} frets`;
  }
  return `${sayRule(rule)}, ${n.slackFrets.toFixed(1)} frets`;
}

const endLeftLong = (build: Build, method: Method): string | undefined =>
  !isCut(build)
    ? undefined
    : method.trim.when === 'when-settled'
      ? 'Leave the end long: trim after the last stretch.'
      : method.trim.when === 'after-first-tension'
        ? 'Leave the end long until the first tension holds.'
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
    compose: ({ build, numbersOf }, position, string) => {
      const n = numbersOf(position, string);
      if (woundWhole(n)) return null;
      const bend = string.wound && !string.hexCore;
      return {
        title: `Measure ${stringLabel(build, position)}: ${bend ? 'bend it 90°, then cut' : 'cut'} {cut} past its post.`,
        detail:
          `${n.cut.spacings.toFixed(1)} post spacings along the head. ${bend ? 'Cut beyond the bend: on a round core a cut without a bend lets the winding come loose. ' : ''}${underTree(build) ? treeWinding(build, position).why : ''}`.trim(),
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
    compose: ({ build, numbersOf }, position, string) =>
      woundWhole(numbersOf(position, string))
        ? {
            title: `Do not cut ${stringLabel(build, position)}: its whole length goes on.`,
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
    compose: ({ build, method, job, numbersOf }, position, string): StepBody => {
      const n = numbersOf(position, string);
      const { slack, winds } = windingQuantities(build, n);
      const name = stringLabel(build, position);
      const twist = 'Let any twist run out first: a twisted string plays out of tune.';
      const notYet = isTrimmed(build, job.kind)
        ? endLeftLong(build, method)
        : isCut(build)
          ? 'Leave the end long: nothing is cut in this job.'
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
          detail: `Hand-tight only, no pliers. ${twist}`,
          reason: 'The lock holds it: slack would only have to be wound off again.',
          numbers: { winds },
          ...(notYet ? { notYet } : {}),
          mistakes: ['lock-slips', 'wrong-string'],
        };
      }
      if (build.head === 'pegbox') {
        return {
          ...shared,
          title: `Put the end of ${name} {through} through the hole of its peg.`,
          detail: `From the top, bent back where it comes out. The rest is wound: it is not cut. ${twist}`,
          reason: 'Whole, it can be taken off and put on again.',
          numbers: { through: THROUGH, slack, winds },
        };
      }
      if (build.tuner === 'slotted-post') {
        return {
          ...shared,
          title: `Push the end of ${name} down into its post and bend it over the edge.`,
          detail: `Down the middle to the bottom, a crisp bend, then hold it there. ${twist}`,
          reason: 'The end is inside the post: nothing is left to prick a hand.',
          numbers: { slack, winds },
        };
      }
      if (underTree(build)) {
        const tree = treeWinding(build, position);
        return {
          ...shared,
          title: `Put ${name} through its post: ${woundWhole(n) ? 'wind its whole length' : 'leave {slack}'}.`,
          detail: `${tree.why}${n.ruleGives ? ` ${insteadOfRule(n)}` : ''} ${twist}`,
          reason: 'Too few winds here give an open-string rattle that looks like a bad nut.',
          numbers: { slack, winds },
          ...(notYet ? { notYet } : {}),
        };
      }
      const word = postWord(build);
      return {
        ...shared,
        title: `Pull ${name} through, then back {slack}: ${spoken(n.rule, n)}.`,
        detail: `${insteadOfRule(n) ? `${insteadOfRule(n)} ` : ''}${word === 'roller' ? '' : `${HOLE_WORDS[method.hole]} `}Bend the end where it leaves the hole. ${twist}`,
        reason: `Slack becomes winds: ${n.winds.turns.toFixed(1)} turns here.`,
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
    compose: ({ build, method, numbersOf }, position, string): StepBody => {
      const n = numbersOf(position, string);
      const { winds, stack } = windingQuantities(build, n);
      return isLocking(build)
        ? takeUp(build, position, winds)
        : wind(build, method, position, string, n, { winds, stack });
    },
  },
];

function takeUp(build: Build, position: Position, winds: Quantity): StepBody {
  return {
    title: `${stringLabel(build, position)}: finger in the nut slot, turn the post ${tightens(build.head, position.side, build.handedness)}.`,
    detail: 'It comes up within one turn. The string leaves on the inside of the post.',
    reason: 'On the inside it pulls straight from the nut.',
    numbers: { winds },
    check: {
      question: 'On the inside, in its slot, holding?',
      good: 'It leaves on the inside and does not creep in the lock.',
      ifNot: 'wrong-side',
    },
    mistakes: ['wrong-side', 'lock-slips', 'out-of-slot', tailMistake(build)],
    tools: ['winder'],
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
): StepBody {
  const name = stringLabel(build, position);
  const word = postWord(build);
  const turn = tightens(build.head, position.side, build.handedness);
  const advice = n.advice ? ` ${n.advice}` : '';
  if (build.head === 'pegbox') {
    const bass = build.family === 'double-bass';
    const cross = crossing(build, position, n.winds.turns);
    const direction = pegTurn(position.side, build.handedness);
    return {
      title: bass
        ? cross.nearlyWhole
          ? `${name}: wind almost the whole string away from the wall, cross over, then run straight.`
          : `${name}: {away} away from the wall, cross over, then run straight from the nut.`
        : `${name}: finger in the nut slot, wind over the top towards the pegbox wall.`,
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
        ...(bass ? [] : (['peg-slips'] as const)),
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
  return {
    title: `${name}: finger in the nut slot, turn the ${word} ${direction}.`,
    detail: `${WIND_WORDS[school]} ${word === 'roller' ? 'Coils run towards the edge of the slot, so that it pulls straight.' : 'The string leaves on the inside.'}${build.extras.includes('string-tree') && !isBowed(build.family) ? ' Where the string tree holds it, it goes under the tree now.' : ''} Stop when it just holds.${advice}`,
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
    tools: ['winder'],
    drawing: 'post',
    // Turning takes the time; folding an end under itself a little more.
    minutes: 0.3 + 0.07 * n.winds.turns + (school === 'self-lock' ? 0.1 : 0),
  };
}
