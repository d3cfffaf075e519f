import { plural } from '../../count';
import { isBowed } from '../../instruments/build';
import { comesLoose, isPinned, isTied } from '../../parts/tailEnds';
import { isLocking } from '../../parts/tuners';
import { capital } from '../../sentence';
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
        detail: `Go slowly: overshooting breaks strings. ${watch}${hanging && method.hanging === 'taped' ? ' Once it holds, the tape can come off.' : ''}`,
        reason: hanging
          ? `From now on this first string holds the ${build.tailEnd === 'wrap-around' ? 'bridge' : 'tailpiece'}.`
          : build.bridge === 'floating'
            ? 'The bridge gets its tension back before you touch the next string.'
            : 'Get all near pitch before any fine tuning: each string changes the others.',
        numbers: {
          pull: {
            label: 'Tension at pitch',
            value: n.tensionN,
            unit: 'N',
            digits: 0,
            why: `${string.name} at ${n.frequencyHz.toFixed(1)} Hz: from its weight, its length and the note.`,
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
            title: names.lead(
              position,
              `once it holds, cut off the rest a hand’s breadth past the ${postWord(build)}.`,
            ),
            detail:
              'The offcut is the other half: bag it and label it with set and string; it goes to stock when you finish. Already a half-length string: skip this.',
            reason:
              'Half is long enough here, and the other half strings the next instrument. If an end slips, you need the length.',
            gate: 'It is near pitch, the tail end holds, and it is the right string.',
            check: {
              question: 'Holding at both ends, and the right string?',
              good: 'Neither end has moved since it came near pitch.',
              ifNot: isTied(build.tailEnd) ? 'tail-slips' : 'slips-at-post',
            },
            parts: [{ part: 'half-length string', fate: 'stock', count: 1 }],
            cautions: ['sharp-ends'],
            tools: ['cutters'],
            skipBecause: ['Already cut in half'],
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
      title: `With ${names.group(group)} near pitch, check from the side: bridge still upright?`,
      detail: 'If it leans, ease it back with both hands, thumbs at the top, before the next string.',
      reason: 'Each new string pulls it slightly towards the nut; little by little it tips.',
      check: {
        question: 'Upright, feet on their marks?',
        good: 'The tailpiece side of the bridge is square to the top.',
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
            reason: 'Usual method: trim once it is near pitch and holding.',
            numbers: leaveNumber(method.trim.leaveMm),
            gate: 'It holds near pitch and is the right string.',
            check: {
              question: 'Holding near pitch, and the loose end in the cutters?',
              good: 'Neither end has moved since it came near pitch.',
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
      title: 'All at pitch: take out the wedge, refit the back plate, tune again.',
      skipBecause: ['No wedge was used'],
      reason: 'Now the springs balance the strings.',
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
          ? 'Tune them all, the new one last, then go round again.'
          : 'Tune low to high, then go round again.',
      detail: `Each string pulls its neighbours flat, so going round again is normal. ${tuningLine(build.positions)}.${
        strings.some((s) => isSoft(s.core)) ? ' Keep retuning in the first hour: that is when they stretch most.' : ''
      }${order.length > 1 && order.length < build.positions.length && job.kind !== 'fast-path' ? ' Use an old string that stays on as your pitch reference.' : ''}`,
      reason: 'Always tune up to the note; if it is sharp, drop below and come up.',
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
        title: 'Straighten the bridge and check its position.',
        detail: `${capital(place.where)}.${build.noted ? '' : ' Same length from nut to bridge as you noted before.'}`,
        reason: 'Tuning has pulled it towards the nut, and it keeps moving until tomorrow.',
        numbers: place.numbers,
        check: { question: 'Upright, same place as before?', good: place.good, ifNot: 'bridge-tipped' },
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
      const each = plural(order.length, 'it', 'each string');
      if (method.stretchRounds === 0) {
        return {
          title: 'No stretching: play each string for a minute, then retune.',
          detail: 'Usual method: brighter, and slower to settle.',
          reason: 'What is not stretched now has to be retuned in lessons.',
          mistakes: ['still-gives', 'out-of-slot'],
          minutes: 2,
        };
      }
      return {
        title:
          method.stretchRounds === 1
            ? `Give ${each} one light tug, then retune.`
            : `Stretch ${each} along its whole length and retune: {rounds}.`,
        detail: `Hold it at nut and bridge. Press with the thumb and lift with the fingers, sideways too: firmly, never a yank, and never let it slap. A stretching tool easily overdoes it.${build.bridge === 'floating' ? ' Keep a hand on the bridge.' : ''} Stop once a stretch hardly changes the pitch, then play it hard for a minute.`,
        reason: 'What stretches out now will not go flat in the lesson.',
        numbers: {
          rounds: {
            label: 'Rounds',
            value: method.stretchRounds,
            unit: 'rounds',
            digits: 0,
            why: `The usual number. More than ${MOST_ROUNDS} separates winding from core.`,
          } satisfies Quantity,
          drop: {
            label: 'First drop',
            value: Math.min(...drops.map((d) => d.from)),
            to: Math.max(...drops.map((d) => d.to)),
            unit: 'cents',
            digits: 0,
            why: 'Usual for these strings in the first round; far less in the second.',
          } satisfies Quantity,
        },
        check: {
          question: 'Does a stretch now hardly lower the pitch?',
          good: 'The last stretch left every string nearly in tune.',
          ifNot: 'still-gives',
        },
        mistakes: [
          'still-gives',
          'out-of-slot',
          'snaps',
          ...(build.bridge === 'floating' ? (['bridge-tipped'] as const) : []),
          ...(isLocking(build) ? [] : (['slips-at-post'] as const)),
        ],
        skipBecause: ['Left bright for a recording', 'Two days to settle before use'],
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
            : `Trim the long ${ends} to {leave}, then bend down or away.`,
        detail:
          `This step cannot be undone. Cutters flat to the post, tips away from the headstock, the end turned away from the next string. ${strings.some((s) => s.wound && !s.hexCore) ? 'Wound strings: bend first, then cut beyond the bend. ' : ''}${tied ? 'Trim tails at the bridge to about 10 mm, a pad under the cutters: long tails buzz.' : ''}`.trim(),
        reason: 'A slipping string cannot be rescued once cut, so this comes last.',
        numbers: {
          ...leaveNumber(method.trim.leaveMm),
          offcuts: {
            label: 'Offcuts to bin',
            value: cut + (tied ? strings.length : 0),
            unit: 'count',
            digits: 0,
            why: 'One offcut binned for each end trimmed.',
          },
        },
        gate: 'Stretched and settled as the method asks; cut only the loose end, not the string that plays.',
        check: {
          question: 'Holding and settled, and the loose end in the cutters?',
          good: 'Nothing has slipped since the last stretch, and every string is the right one.',
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
      reason: 'It is trimmed at the follow-up, once it has settled.',
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
            title: 'Is the 12th fret in tune with the open string?',
            detail: job.change ? job.change.says : 'Needed when the gauge or make is not what was on before.',
            reason: 'A different gauge plays out of tune up the neck until it is set up.',
            check: { question: 'Octaves match?', good: 'The tuner shows both in tune.', ifNot: 'octave-off' },
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
        ...(has('string-tree') ? ['strings under the string tree'] : []),
        ...(has('capo-spikes') ? ['fifth string clear of its spikes'] : []),
        'no sharp ends',
        'wiped down',
      ];
      return {
        title: 'Tune it in playing position; listen to each open string.',
        detail: `${capital(look.join(', '))}.`,
        reason: 'Its tuning shifts when you lift it off the bench.',
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
        title: `Count what is binned: ${groupLabel(build, order)}${offcuts ? '; {offcuts}' : ''}.`,
        detail: back.length ? `Back in place: ${back.join(', ')}.` : undefined,
        reason: 'One offcut binned for each end trimmed; a missing end ends up in a foot.',
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
      title: 'Hand it back near pitch; the full check comes later.',
      detail: 'Tell the player: it will go flat; tune it up each time, and do not trim it.',
      reason: 'It still has to be stretched, trimmed and checked tomorrow.',
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
    why: 'The usual length. A slipping string cannot be rescued once cut.',
  },
});

const offcutCount = (value: number, method: Method, tied: boolean): Quantity => ({
  label: 'Offcuts',
  value,
  unit: 'offcuts',
  digits: 0,
  why: `Trimmed ${method.trim.when === 'before-winding' ? 'before winding' : 'at the post'}${tied ? ' and at the bridge' : ''}.`,
});
