import { stringNumbers } from '../numbers';
import type { Quantity, StepDefinition } from '../types';
import { groupLabel, stringLabel } from '../words';

/** Up to pitch, stretch, trim, last checks. */
export const FINISH: StepDefinition[] = [
  {
    id: 'near-pitch.string',
    phase: 'near-pitch',
    scope: 'string',
    provides: 'bring-to-pitch',
    compose: ({ build, method }, position, string) => {
      const n = stringNumbers(build, method, position, string);
      return {
        title: `Bring ${stringLabel(build, position)} near pitch, from below.`,
        detail: `Slowly: overshooting breaks strings. ${build.tailEnd === 'pin-bridge' ? 'Press the pin down' : 'Watch the tie'} as the tension rises.`,
        numbers: {
          pull: {
            label: 'Pull at pitch',
            value: n.tensionN,
            unit: 'N',
            digits: 0,
            why: `${string.name} at ${n.frequencyHz.toFixed(1)} Hz: T = μ (2 L f)².`,
          },
        },
        cautions: ['face-away'],
        mistakes: ['pings', 'snaps', 'slips-at-post', build.tailEnd === 'pin-bridge' ? 'pin-lifts' : 'tail-slips'],
        tools: ['tuner'],
        minutes: 0.5,
      };
    },
  },
  {
    id: 'tune.all',
    phase: 'tune',
    scope: 'instrument',
    compose: ({ build }) => ({
      title: 'Tune low to high, then once more.',
      detail: `Each string pulls its neighbours flat, so going back is right. ${tuningLine(build.positions)}.`,
      mistakes: ['pings', 'snaps', 'out-of-slot'],
      tools: ['tuner'],
      minutes: 1.5,
    }),
  },
  {
    id: 'stretch.rounds',
    phase: 'stretch',
    scope: 'instrument',
    provides: 'stretch',
    compose: ({ method }) => ({
      title: 'Stretch each string along its whole length and retune: {rounds} rounds.',
      detail:
        'Press with the thumb, lift with the fingers, firm and never yanked. Stop early when a pull hardly moves it.',
      numbers: {
        rounds: {
          label: 'Rounds',
          value: method.stretchRounds,
          unit: 'count',
          digits: 0,
          why: 'House rule. More than four separates winding from core.',
        } satisfies Quantity,
        drop: {
          label: 'First drop',
          value: 100,
          to: 200,
          unit: 'cents',
          digits: 0,
          why: 'Usual after the first round; the second is much less.',
        } satisfies Quantity,
      },
      check: {
        question: 'Does a pull now hardly move it?',
        good: 'The last stretch lost almost nothing on any string.',
        ifNot: 'still-gives',
      },
      cautions: ['face-away'],
      mistakes: ['still-gives', 'out-of-slot', 'snaps', 'slips-at-post'],
      skipBecause: ['Brighter for a recording; it will be played in', 'It can rest two days before use'],
      minutes: method.stretchRounds * 1.5,
    }),
  },
  {
    id: 'trim.ends',
    phase: 'trim',
    scope: 'instrument',
    provides: 'trim',
    undoable: false,
    compose: ({ build, method, strings }) => ({
      title: method.trim.leaveMm === 0 ? 'Trim the post ends flush.' : 'Trim the post ends to {leave}, bend them down.',
      detail:
        `The one step that cannot be undone. ${strings.some((s) => s.wound) ? 'Wound strings: bend first, then cut beyond the bend. ' : ''}${build.tailEnd === 'uke-tie' ? 'Trim the tails at the bridge to about 10 mm.' : ''}`.trim(),
      numbers: {
        leave: {
          label: 'Leave',
          value: method.trim.leaveMm,
          unit: 'mm',
          digits: 0,
          why: 'House rule. A slipping string cannot be rescued once cut.',
        },
        offcuts: {
          label: 'Offcuts to bin',
          value: strings.length * (build.tailEnd === 'uke-tie' ? 2 : 1),
          unit: 'count',
          digits: 0,
          why: 'As many offcuts binned as ends trimmed.',
        },
      },
      check: {
        question: 'Right strings, holding, and settled?',
        good: 'Nothing slipped since the last stretch, and each string is the one meant.',
        ifNot: 'still-gives',
      },
      cautions: ['sharp-ends', 'cutters', 'bin-ends'],
      tools: ['cutters'],
      minutes: 1,
    }),
  },
  {
    id: 'last.checks',
    phase: 'last-checks',
    scope: 'instrument',
    provides: 'check',
    compose: ({ build }) => ({
      title: 'Tune it in playing position; listen to each open string.',
      detail:
        build.tailEnd === 'pin-bridge'
          ? 'Pins level, strings in their nut and bridge slots, no sharp ends, wiped down.'
          : 'Ties below the edge, strings in their slots, no sharp ends, wiped down.',
      check: {
        question: 'In tune, no rattle?',
        good: 'Every open string rings clean and holds.',
        ifNot: 'buzzes',
      },
      mistakes: ['buzzes', 'pings'],
      minutes: 1.5,
    }),
  },
  {
    id: 'last.count',
    phase: 'last-checks',
    scope: 'instrument',
    compose: ({ build, group }) => ({
      title: `Count: ${groupLabel(build, group)} off and binned, offcuts binned, extras back.`,
      detail: build.extras.length ? `Back in place: ${build.extras.join(', ')}.` : undefined,
      check: {
        question: 'Everything accounted for?',
        good: 'No string end left on the bench or the floor.',
        ifNot: 'count-short',
      },
      cautions: ['bin-ends'],
      minutes: 0.5,
    }),
  },
];

function tuningLine(positions: readonly { note: string; number: number }[]): string {
  return positions.map((p) => `${p.number} ${p.note}`).join(' · ');
}
