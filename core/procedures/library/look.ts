import { isBowed } from '../../instruments/build';
import { stopFor } from '../../safety/topics';
import { slotAdvice } from '../../strings/strength';
import { LENGTH_ASKED } from '../facts';
import { CHANGE_KINDS, type StepDefinition } from '../types';
import { stringLabel } from '../words';
import { notedLength } from './bridgePlace';

/** What has to be known before the first string is slack. */
export const LOOK: StepDefinition[] = [
  {
    id: 'look.over',
    phase: 'look',
    scope: 'instrument',
    kinds: CHANGE_KINDS,
    compose: ({ build, job }) => {
      const bowed = isBowed(build.family);
      const floating = build.bridge === 'floating';
      return {
        title: bowed
          ? 'Look first: soundpost stands, bridge upright, no crack.'
          : floating
            ? 'Look first: bridge upright on its feet, no crack.'
            : 'Look first: no crack, bridge flat, nothing loose.',
        ...(bowed
          ? {
              detail:
                'Look through the sound hole on the treble side: the post stands straight behind the bridge foot.',
            }
          : {}),
        reason: 'What is found now is not blamed on the new strings, and some of it must not be strung at all.',
        check: {
          question: 'Sound enough to string?',
          good: bowed
            ? 'Post upright and in its place, bridge straight, pegs hold where they are left.'
            : 'Wood whole, bridge down on the top along its whole edge, tuners firm.',
          ifNot: bowed ? 'soundpost-down' : 'needs-repair',
        },
        stopIf: [
          ...(bowed ? [stopFor('soundpost')] : []),
          stopFor('lifting'),
          'A part you do not know: photograph it, stop, ask.',
        ],
        cautions: ['qualified-repair', ...(bowed ? (['soundpost'] as const) : [])],
        mistakes: ['needs-repair', 'unknown-part', ...(bowed ? (['soundpost-down'] as const) : [])],
        minutes: job.kind === 'fast-path' ? 0.3 : 0.5,
      };
    },
  },
  {
    id: 'look.note',
    phase: 'look',
    scope: 'instrument',
    kinds: CHANGE_KINDS,
    compose: ({ build }) => {
      const has = (e: (typeof build.extras)[number]) => build.extras.includes(e);
      const floating = build.bridge === 'floating';
      const note = [
        ...(floating ? [LENGTH_ASKED] : []),
        ...(has('bridge-screws') ? ['Which way the bridge’s adjusting screws face'] : []),
        ...(has('ball-end-spacers') ? ['How many ball-end spacers are on each string'] : []),
        ...(build.tailEnd === 'loop-tailpiece' ? ['The path of each string through the tailpiece'] : []),
        ...(build.tailEnd === 'stop-tailpiece-wrapped' ? ['Which strings wrap over the top'] : []),
        ...(has('pickup-clip') ? ['Where the pickup clip sits'] : []),
        ...(has('felt-washer') ? ['Where the felt washer sits'] : []),
        ...(has('string-sleeves') ? ['Which strings wear a sleeve on the bridge'] : []),
      ];
      if (note.length === 0) return null;
      const numbers = floating ? notedLength(build) : {};
      return {
        title: floating
          ? 'Measure from nut to bridge, write it down, and photograph it.'
          : 'Photograph it before anything comes off.',
        detail: `${note.join('. ')}.${'length' in numbers ? ' Noted for this instrument: {length}.' : ''}`,
        reason: 'What is not noted now cannot be put back as it was.',
        numbers,
        note,
        ...(has('bridge-screws') ? { notYet: 'Do not turn the height posts.' } : {}),
        tools: floating ? ['ruler'] : [],
        minutes: 0.3 + 0.3 * note.length,
      };
    },
  },
  {
    id: 'look.last-time',
    phase: 'look',
    scope: 'instrument',
    kinds: CHANGE_KINDS,
    compose: ({ job }) => {
      if (job.last?.winds !== 'self-lock') return null;
      return {
        title: 'Last time the ends were locked under themselves: they come off slower.',
        detail: 'Unfold each end from under the string before unwinding; pointed pliers, tips away from the head.',
        reason: 'The last technician’s method sets this removal and its minutes.',
        tools: ['pointed pliers'],
        minutes: 0.2,
      };
    },
  },
  {
    id: 'look.reach',
    phase: 'look',
    scope: 'instrument',
    kinds: CHANGE_KINDS,
    compose: ({ build, order, strings, numbersOf, job }) => {
      const doubtful = order.flatMap((p) => {
        const string = strings.find((s) => s.number === p.number);
        const reach = string && numbersOf(p, string).reach;
        return reach && reach.verdict !== 'reaches' ? [`${stringLabel(build, p)}: ${reach.says}`] : [];
      });
      if (doubtful.length === 0) return null;
      return {
        title:
          doubtful.length === 1
            ? 'One string may not reach: lay it over first.'
            : `${doubtful.length} strings may not reach: lay them over first.`,
        detail: doubtful.join(' '),
        reason: 'The label says the scale; the length of this head decides.',
        check: {
          question: 'Does it reach its post with its slack?',
          good: 'From the tail past the post with a hand to spare.',
          ifNot: 'too-short',
        },
        mistakes: ['too-short'],
        minutes: job.kind === 'fast-path' ? 0.2 : 0.4,
      };
    },
  },
  {
    id: 'look.slots',
    phase: 'look',
    scope: 'instrument',
    compose: ({ build, order, strings }) => {
      const misfits = order.flatMap((p) => {
        const string = strings.find((s) => s.number === p.number);
        const advice = p.nutSlotMm && string ? slotAdvice(p.nutSlotMm, string.gaugeMm) : null;
        return advice ? [`${stringLabel(build, p)}: ${advice}`] : [];
      });
      return misfits.length === 0
        ? null
        : {
            title: 'A nut slot does not fit its new string.',
            detail: misfits.join(' '),
            reason: 'A string that binds pings and drifts; one with play buzzes.',
            cautions: ['qualified-repair'],
            minutes: 0.3,
          };
    },
  },
  {
    id: 'look.set-change',
    phase: 'look',
    scope: 'instrument',
    compose: ({ job }) =>
      job.change && job.change.checks.length > 0
        ? {
            title: 'The new strings are not the ones that were on.',
            detail: job.change.says,
            reason: 'Another gauge pulls otherwise: what it moves is checked at the end.',
            minutes: 0.2,
          }
        : null,
  },
];
