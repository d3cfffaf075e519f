import { isBowed } from '../../instruments/build';
import { stopFor } from '../../safety/topics';
import { lowerFirst } from '../../sentence';
import { slotAdvice } from '../../strings/strength';
import { FACTS, type FactId } from '../facts';
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
          ? 'Check first: soundpost up, bridge upright, no cracks.'
          : floating
            ? 'Check first: bridge upright on its feet, no cracks.'
            : 'Check first: no cracks, bridge flat, nothing loose.',
        ...(bowed
          ? {
              detail: 'Look through the treble f-hole: the post stands upright just behind the bridge foot.',
            }
          : {}),
        reason: 'Damage found now is not put down to the new strings, and some instruments must not be strung.',
        check: {
          question: 'Safe to string?',
          good: bowed
            ? 'Post upright and in place, bridge straight, pegs stay put.'
            : 'No cracks, no gap under the bridge, tuners firm.',
          ifNot: bowed ? 'soundpost-down' : 'needs-repair',
        },
        stopIf: [
          ...(bowed ? [stopFor('soundpost')] : []),
          stopFor('lifting'),
          'A part you do not recognise: photograph it, stop and ask.',
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
      const note: FactId[] = [
        ...(floating ? (['bridge-place'] as const) : []),
        ...(has('bridge-screws') ? (['bridge-screws'] as const) : []),
        ...(has('ball-end-spacers') ? (['spacers'] as const) : []),
        ...(build.tailEnd === 'loop-tailpiece' ? (['tail-path'] as const) : []),
        ...(build.tailEnd === 'stop-tailpiece-wrapped' ? (['wrapped-strings'] as const) : []),
        ...(has('pickup-clip') ? (['pickup-clip'] as const) : []),
        ...(has('felt-washer') ? (['felt-washer'] as const) : []),
        ...(has('string-sleeves') ? (['sleeves'] as const) : []),
      ];
      if (note.length === 0) return null;
      const numbers = floating ? notedLength(build) : {};
      return {
        title: floating
          ? 'Measure from nut to bridge, write it down, and photograph it.'
          : 'Photograph it before anything comes off.',
        detail: `${note.map((id) => FACTS[id]).join('. ')}.${'length' in numbers ? ' On record for this instrument: {length}.' : ''}`,
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
        title: 'Self-locked last time: allow longer to take them off.',
        detail:
          'Unfold each end from under the string before unwinding. Long-nose pliers, tips away from the headstock.',
        reason: 'How it was wound last time decides how it comes off.',
        tools: ['long-nose pliers'],
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
        return reach && reach.verdict !== 'reaches' ? [`${stringLabel(build, p)}: ${lowerFirst(reach.says)}`] : [];
      });
      if (doubtful.length === 0) return null;
      return {
        title:
          doubtful.length === 1
            ? 'One string may be too short: lay it along the neck first.'
            : `${doubtful.length} strings may be too short: lay them along the neck first.`,
        detail: doubtful.join(' '),
        reason: 'The label goes by scale length; a long headstock needs more.',
        check: {
          question: 'Long enough for the post and the slack?',
          good: 'Laid from the tail, it runs a hand’s breadth past the post.',
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
            reason: 'Too tight, it pings and goes out of tune; too loose, it buzzes.',
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
            title: 'The new strings are a different make or gauge.',
            detail: job.change.says,
            reason: 'A different gauge changes the tension, so the set-up is checked at the end.',
            minutes: 0.2,
          }
        : null,
  },
];
