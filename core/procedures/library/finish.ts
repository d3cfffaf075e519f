import { isBowed } from '../../instruments/build';
import { comesLoose, isPinned, isTied } from '../../parts/tailEnds';
import { isLocking } from '../../parts/tuners';
import { isSoft } from '../../settling/overnight';
import { expectedDropCents, MOST_ROUNDS } from '../../settling/stretch';
import { isCut, isTrimmed } from '../method';
import type { MistakeId } from '../mistakes';
import { woundWhole } from '../numbers';
import { CHANGE_KINDS, CUTTING_KINDS, type Method, type Quantity, type Situation, type StepDefinition } from '../types';
import { groupLabel, postWord } from '../words';
import { bridgePlace } from './bridgePlace';

const tuningLine = (positions: readonly { note: string; number: number }[]): string =>
  positions.map((p) => `${p.number} ${p.note}`).join(' · ');

/** Up to pitch, stretch, trim, last checks. */
export const FINISH: StepDefinition[] = [
  {
    id: 'near-pitch.string',
    phase: 'near-pitch',
    scope: 'string',
    provides: 'bring-to-pitch',
    kinds: CHANGE_KINDS,
    compose: ({ build, method, order, numbersOf, names }, position, string) => {
      const n = numbersOf(position, string);
      const first = order[0]?.number === position.number;
      const hanging = comesLoose(build) && first && order.length === build.positions.length;
      const watch = isPinned(build.tailEnd)
        ? 'Press the pin down as the tension rises.'
        : isTied(build.tailEnd)
          ? 'Watch the tie as the tension rises.'
          : build.bridge === 'floating'
            ? 'Watch the bridge from the side as the tension rises.'
            : 'Watch both ends as the tension rises.';
      const tail: MistakeId[] = isPinned(build.tailEnd)
        ? ['pin-lifts']
        : isTied(build.tailEnd)
          ? ['tail-slips']
          : build.bridge === 'floating'
            ? ['bridge-tipped', 'not-hooked']
            : [];
      return {
        title: `Bring ${names.of(position)} near pitch, from below.`,
        detail: `Slowly: overshooting breaks strings. ${watch}${hanging && method.hanging === 'taped' ? ' Once it holds, the tape can come off.' : ''}`,
        reason: hanging
          ? `This first string is what holds the ${build.tailEnd === 'wrap-around' ? 'bridge' : 'tailpiece'} from now on.`
          : build.bridge === 'floating'
            ? 'The bridge gets its tension back before the next string is touched.'
            : 'All near pitch before any fine tuning: each string changes the others.',
        numbers: {
          pull: {
            label: 'Tension at pitch',
            value: n.tensionN,
            unit: 'N',
            digits: 0,
            why: `${string.name} at ${n.frequencyHz.toFixed(1)} Hz: T = μ (2 L f)².`,
          },
        },
        mistakes: [
          'pings',
          'snaps',
          isLocking(build) ? 'lock-slips' : build.head === 'pegbox' ? 'peg-slips' : 'slips-at-post',
          ...tail,
        ],
        tools: ['tuner'],
        minutes: 0.25,
      };
    },
  },
  {
    // Strung long: nothing is cut before the tie has held.
    id: 'prepare.halve',
    phase: 'near-pitch',
    scope: 'string',
    undoable: false,
    kinds: CHANGE_KINDS.filter((kind) => kind !== 'refit'),
    when: (b, m) => !(isCut(b) && m.trim.when === 'before-winding'),
    compose: ({ build, names }, position, string) =>
      string.half
        ? {
            title: names.lead(position, `it holds: cut the rest off, a hand’s breadth past the ${postWord(build)}.`),
            detail:
              'What comes off is the other half: into its bag, labelled with the set and the string; the finish books it to the shelf. Already a half: go on.',
            reason:
              'Half is long enough here, and the other half serves the next instrument. An end that slips needs the length.',
            gate: 'Near pitch, its tail end holding, and the right string.',
            check: {
              question: 'Holding at both ends, right string?',
              good: 'It has not moved at either end since it came up.',
              ifNot: isTied(build.tailEnd) ? 'tail-slips' : 'slips-at-post',
            },
            parts: [{ part: 'other half', fate: 'stock', count: 1 }],
            cautions: ['sharp-ends'],
            tools: ['cutters'],
            skipBecause: ['It is a half already'],
            minutes: 0.3,
          }
        : null,
  },
  {
    id: 'near-pitch.bridge',
    phase: 'near-pitch',
    scope: 'group',
    kinds: CHANGE_KINDS,
    when: (b) => b.bridge === 'floating',
    compose: ({ names, group }) => ({
      title: `Look from the side: bridge still upright after ${names.group(group)}?`,
      detail: 'If it leans, ease it back with both hands, thumbs at the top, before the next string.',
      reason: 'Each new string drags it a little towards the nut; little by little it tips.',
      check: {
        question: 'Upright, feet on their marks?',
        good: 'The side towards the tailpiece stands square to the top.',
        ifNot: 'bridge-tipped',
      },
      mistakes: ['bridge-tipped'],
      minutes: 0.2,
    }),
  },
  {
    id: 'near-pitch.trim',
    phase: 'near-pitch',
    scope: 'string',
    provides: 'trim',
    undoable: false,
    kinds: CUTTING_KINDS,
    when: (b, m) => isCut(b) && m.trim.when === 'after-first-tension',
    compose: ({ method, numbersOf, names }, position, string) =>
      woundWhole(numbersOf(position, string))
        ? null
        : {
            title: `Trim ${names.of(position)} ${method.trim.leaveMm === 0 ? 'flush' : 'to {leave}'}.`,
            detail: string.wound && !string.hexCore ? 'Bend first, then cut beyond the bend.' : undefined,
            reason: 'House method: trimmed once the first tension holds.',
            numbers: leaveNumber(method.trim.leaveMm),
            gate: 'Near pitch, holding, and the right string.',
            check: {
              question: 'Holding at pitch, and the loose end in the cutters?',
              good: 'It has not moved at either end since it came up.',
              ifNot: 'slips-at-post',
            },
            mistakes: ['wrong-cut', 'winding-loose', 'slips-at-post'],
            cautions: ['bin-ends'],
            tools: ['cutters'],
            parts: [{ part: 'offcut', fate: 'discard', count: 1 }],
            minutes: 0.2,
          },
  },
  {
    id: 'tune.unwedge',
    phase: 'tune',
    scope: 'instrument',
    kinds: CHANGE_KINDS,
    when: (b) => b.tailEnd === 'rear-block',
    compose: () => ({
      title: 'All at pitch: take the wedge out, close the back, tune again.',
      skipBecause: ['There was no wedge'],
      reason: 'The springs now hold what the wedge held.',
      minutes: 0.6,
    }),
  },
  {
    id: 'tune.all',
    phase: 'tune',
    scope: 'instrument',
    kinds: CHANGE_KINDS,
    compose: ({ build, job, strings, order }) => ({
      title:
        job.kind === 'fast-path'
          ? 'Tune all, the new string last, and once more.'
          : 'Tune low to high, then once more.',
      detail: `Each string pulls its neighbours flat, so going back is right. ${tuningLine(build.positions)}.${
        strings.some((s) => isSoft(s.core))
          ? ' In the first hour retune again and again: most of what they give comes then.'
          : ''
      }${order.length > 1 && order.length < build.positions.length && job.kind !== 'fast-path' ? ' An old string that stays on is the reference to tune to.' : ''}`,
      reason: 'Always up to the note from below; if it is sharp, go below and come up.',
      mistakes: ['pings', 'snaps', 'out-of-slot'],
      tools: ['tuner'],
      minutes: isBowed(build.family) ? 2 : 1.2,
    }),
  },
  {
    id: 'tune.bridge',
    phase: 'tune',
    scope: 'instrument',
    kinds: CHANGE_KINDS,
    when: (b) => b.bridge === 'floating',
    compose: ({ build }) => {
      const place = bridgePlace(build);
      return {
        title: 'Straighten the bridge and look where it stands.',
        detail: `${capital(place.where)}.${build.noted ? '' : ' The same length from nut to bridge as you wrote down before.'}`,
        reason: 'It has been dragged while tuning, and will be again until tomorrow.',
        numbers: place.numbers,
        check: { question: 'Same place as before, upright?', good: place.good, ifNot: 'bridge-tipped' },
        mistakes: ['bridge-tipped'],
        tools: ['ruler'],
        minutes: 0.8,
      };
    },
  },
  {
    id: 'stretch.rounds',
    phase: 'stretch',
    scope: 'instrument',
    provides: 'stretch',
    compose: ({ build, method, strings, order }) => {
      const drops = strings.map((s) => expectedDropCents(s, 1));
      const each = order.length === 1 ? 'it' : 'each string';
      if (method.stretchRounds === 0) {
        return {
          title: 'No stretching: play every string a minute, then retune.',
          detail: 'House method: brighter, and slower to settle.',
          reason: 'What is not stretched out now is retuned in lessons.',
          mistakes: ['still-gives', 'out-of-slot'],
          minutes: 2,
        };
      }
      return {
        title:
          method.stretchRounds === 1
            ? `Give ${each} one light tug, then retune.`
            : `Stretch ${each} along its whole length and retune: {rounds}.`,
        detail: `Hold it at nut and bridge; press with the thumb, lift with the fingers, sideways too, firm and never yanked, and never let it slap: a stretching tool easily gives too much.${build.bridge === 'floating' ? ' A hand on the bridge.' : ''} Stop early when a pull hardly moves it; then play it hard for a minute.`,
        reason: 'What gives now does not go flat in the lesson.',
        numbers: {
          rounds: {
            label: 'Rounds',
            value: method.stretchRounds,
            unit: 'rounds',
            digits: 0,
            why: `House rule. More than ${MOST_ROUNDS} separates winding from core.`,
          } satisfies Quantity,
          drop: {
            label: 'First drop',
            value: Math.min(...drops.map((d) => d.from)),
            to: Math.max(...drops.map((d) => d.to)),
            unit: 'cents',
            digits: 0,
            why: 'Usual for these strings after the first round; the second is much less.',
          } satisfies Quantity,
        },
        check: {
          question: 'Does a pull now hardly move it?',
          good: 'The last stretch lost almost nothing on any string.',
          ifNot: 'still-gives',
        },
        mistakes: [
          'still-gives',
          'out-of-slot',
          'snaps',
          ...(build.bridge === 'floating' ? (['bridge-tipped'] as const) : []),
          ...(isLocking(build) ? [] : (['slips-at-post'] as const)),
        ],
        skipBecause: ['Brighter for a recording; it will be played in', 'It can rest two days before use'],
        minutes: method.stretchRounds * (0.1 * order.length + 0.2),
      };
    },
  },
  {
    id: 'trim.ends',
    phase: 'trim',
    scope: 'instrument',
    provides: 'trim',
    undoable: false,
    kinds: CUTTING_KINDS,
    when: (b, m) => isCut(b) && m.trim.when === 'when-settled',
    compose: ({ method, strings, build, order, numbersOf }) => {
      const tied = isTied(build.tailEnd);
      const cut = cutCount(strings, order, numbersOf);
      if (cut === 0 && !tied) return null;
      const ends = strings.length > 1 ? 'ends' : 'end';
      return {
        title:
          method.trim.leaveMm === 0
            ? `Trim the long ${ends} flush.`
            : `Trim the long ${ends} to {leave}, bend down or away.`,
        detail:
          `The one step that cannot be undone: cutter flat to the post, tips away from the head, the end turned away from its neighbour. ${strings.some((s) => s.wound && !s.hexCore) ? 'Wound strings: bend first, then cut beyond the bend. ' : ''}${tied ? 'Tails at the bridge to about 10 mm, a pad under the cutters: long ones buzz.' : ''}`.trim(),
        reason: 'A slipping string cannot be rescued once cut, so this comes last.',
        numbers: {
          ...leaveNumber(method.trim.leaveMm),
          offcuts: {
            label: 'Offcuts to bin',
            value: cut + (tied ? strings.length : 0),
            unit: 'count',
            digits: 0,
            why: 'As many offcuts binned as ends trimmed.',
          },
        },
        gate: 'Stretched and settled as the method asks; cut only the loose end, not the string that plays.',
        check: {
          question: 'Holding and settled, and the loose end in the cutters?',
          good: 'Nothing slipped since the last stretch, and each string is the one meant.',
          ifNot: 'still-gives',
        },
        cautions: ['sharp-ends', 'bin-ends'],
        mistakes: ['wrong-cut', 'winding-loose', 'still-gives'],
        tools: ['cutters'],
        parts: [{ part: 'offcut', fate: 'discard', count: cut + (tied ? strings.length : 0) }],
        minutes: 0.15 * strings.length + 0.2,
      };
    },
  },
  {
    id: 'trim.tails',
    phase: 'trim',
    scope: 'instrument',
    undoable: false,
    kinds: CUTTING_KINDS,
    when: (b, m) => isTied(b.tailEnd) && m.trim.when !== 'when-settled',
    compose: ({ strings }) => ({
      title: 'Trim the tails at the bridge to about 10 mm.',
      reason: 'Long tails buzz against the top.',
      gate: 'Stretched, and no tie has moved.',
      check: { question: 'Every tie holding?', good: 'No tail has crept since tuning.', ifNot: 'tail-slips' },
      cautions: ['bin-ends'],
      tools: ['cutters'],
      parts: [{ part: 'offcut', fate: 'discard', count: strings.length }],
      minutes: 0.1 * strings.length,
    }),
  },
  {
    id: 'last.bend-away',
    phase: 'last-checks',
    scope: 'instrument',
    kinds: ['fast-path'],
    when: (b) => b.head !== 'pegbox',
    compose: () => ({
      title: 'Bend the long end down and away from hands.',
      reason: 'It is trimmed at the proper follow-up, when it has settled.',
      notYet: 'Do not cut it yet.',
      cautions: ['sharp-ends'],
      minutes: 0.1,
    }),
  },
  {
    id: 'last.octave',
    phase: 'last-checks',
    scope: 'instrument',
    compose: ({ build, job }) =>
      isBowed(build.family) || (job.change !== null && !job.change.checks.includes('octave')) || job.kind === 'refit'
        ? null
        : {
            title: 'Open string against the twelfth fret: the same octave?',
            detail: job.change ? job.change.says : 'Needed when the gauge or the make is not the one that was on.',
            reason: 'Another gauge plays out of tune along the neck until it is set up.',
            check: { question: 'Octaves match?', good: 'Within what the tuner calls in tune.', ifNot: 'octave-off' },
            mistakes: ['octave-off'],
            tools: ['tuner'],
            skipBecause: ['The same strings as before'],
            minutes: 0.1 * build.positions.length,
          },
  },
  {
    id: 'last.play',
    phase: 'last-checks',
    scope: 'instrument',
    provides: 'check',
    kinds: CHANGE_KINDS,
    compose: ({ build, job }) => {
      const has = (e: (typeof build.extras)[number]) => build.extras.includes(e);
      const look = [
        isPinned(build.tailEnd) ? 'pins level' : isTied(build.tailEnd) ? 'ties below the edge' : 'ends seated',
        'strings in their slots',
        ...(build.bridge === 'floating' ? ['bridge upright, feet in place'] : []),
        ...(has('tailpiece-cover') ? [has('cover-slides') ? 'tailpiece cover back on' : 'tailpiece cover closed'] : []),
        ...(has('fine-tuners') ? ['fine tuners at mid travel'] : []),
        ...(has('string-tree') ? ['strings under their tree'] : []),
        ...(has('capo-spikes') ? ['short string ready for its spikes'] : []),
        'no sharp ends',
        'wiped down',
      ];
      return {
        title: 'Tune it in playing position; listen to each open string.',
        detail: `${capital(look.join(', '))}.`,
        reason: 'Lying on the bench it is in tune for the bench.',
        check: {
          question: 'In tune, no rattle?',
          good: 'Every open string rings clean and holds.',
          ifNot: build.family === 'bass-guitar' ? 'open-rattle' : 'buzzes',
        },
        mistakes: ['buzzes', 'pings', ...(build.family === 'bass-guitar' ? (['open-rattle'] as const) : [])],
        tools: ['tuner'],
        minutes: job.kind === 'fast-path' ? 0.5 : 1.2,
      };
    },
  },
  {
    id: 'last.count',
    phase: 'last-checks',
    scope: 'instrument',
    kinds: CHANGE_KINDS.filter((kind) => kind !== 'refit'),
    compose: ({ build, order, method, job, strings, numbersOf }) => {
      const back = [
        ...(build.extras.includes('pins') ? ['pins'] : []),
        ...(build.extras.includes('tailpiece-cover') ? ['cover'] : []),
        ...(build.extras.includes('ball-end-spacers') ? ['ball-end spacers'] : []),
        ...(build.extras.includes('pickup-clip') ? ['pickup clip'] : []),
        ...(build.extras.includes('felt-washer') ? ['felt washer'] : []),
        ...(build.tailEnd === 'rear-block' ? ['back plate'] : []),
      ];
      const tied = isTied(build.tailEnd) ? order.length : 0;
      const offcuts = isTrimmed(build, job.kind) ? cutCount(strings, order, numbersOf) + tied : 0;
      return {
        title: `Count: ${groupLabel(build, order)} off and binned${offcuts ? ', {offcuts} offcuts' : ''}.`,
        detail: back.length ? `Back in place: ${back.join(', ')}.` : undefined,
        reason: 'As many offcuts binned as strings trimmed; a missing end ends up in a foot.',
        ...(offcuts ? { numbers: { offcuts: offcutCount(offcuts, method, isTied(build.tailEnd)) } } : {}),
        check: {
          question: 'Everything accounted for?',
          good: 'No string end left on the bench or the floor.',
          ifNot: 'count-short',
        },
        cautions: ['bin-ends'],
        mistakes: ['count-short'],
        minutes: 0.4,
      };
    },
  },
  {
    id: 'last.proper-look',
    phase: 'last-checks',
    scope: 'instrument',
    kinds: ['fast-path'],
    compose: () => ({
      title: 'Hand it over near pitch; a proper look follows.',
      detail: 'Tell the player: it will go flat, tune it up from below each time, do not trim.',
      reason: 'Quick is not finished: tomorrow it is stretched, trimmed and looked at.',
      minutes: 0.2,
    }),
  },
];

/** How many strings are cut at the post: not those that are wound whole. */
function cutCount(strings: Situation['strings'], order: Situation['order'], numbersOf: Situation['numbersOf']): number {
  return order.filter((p) => {
    const string = strings.find((s) => s.number === p.number);
    return string !== undefined && !woundWhole(numbersOf(p, string));
  }).length;
}

const leaveNumber = (value: number): Record<string, Quantity> => ({
  leave: {
    label: 'Leave',
    value,
    unit: 'mm',
    digits: 0,
    why: 'House rule. A slipping string cannot be rescued once cut.',
  },
});

const offcutCount = (value: number, method: Method, tied: boolean): Quantity => ({
  label: 'Offcuts',
  value,
  unit: 'count',
  digits: 0,
  why: `Trimmed ${method.trim.when === 'before-winding' ? 'before winding' : 'at the post'}${tied ? ' and at the bridge' : ''}.`,
});

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
