import { describeBuild, isBowed } from '../../instruments/build';
import { comesLoose } from '../../parts/tailEnds';
import { isTrimmed } from '../method';
import { underTree } from '../numbers';
import { CHANGE_KINDS, type StepDefinition } from '../types';

/** Whether all its strings come off at once, and with them what holds the tail end. */
const fallsOff: NonNullable<StepDefinition['when']> = (b, m) =>
  comesLoose(b) && m.hanging === 'taped' && (m.atATime === 'all' || m.atATime > 3);

/** Laying the instrument down and all that must be ready before the first string is slack. */
export const PREPARE: StepDefinition[] = [
  {
    id: 'prepare.bench',
    phase: 'prepare',
    scope: 'instrument',
    provides: 'protect',
    kinds: CHANGE_KINDS,
    compose: ({ build }) => {
      const bass = build.family === 'double-bass';
      return {
        title: bass
          ? 'Lay it on its back on a padded floor or bench, a roll under the neck.'
          : 'Lay it on the padded bench, a roll under the neck.',
        detail: `${describeBuild(build.family, build.size)}: the neck carries the support, so the head takes no load.${build.bridge === 'fixed' && !['electric', 'bass-guitar'].includes(build.family) ? ' A cloth over the top while ends hang from the bridge.' : ''}`,
        reason: 'Never a bare table: the finish and the head pay for it.',
        ...(bass ? { cautions: ['heavy' as const] } : {}),
        tools: ['padded bench or the open case', 'neck roll'],
        minutes: bass ? 2 : 0.5,
      };
    },
  },
  {
    id: 'prepare.layout',
    phase: 'prepare',
    scope: 'instrument',
    kinds: CHANGE_KINDS.filter((kind) => kind !== 'refit'),
    compose: ({ build, strings, job }) => {
      const halves = strings.filter((s) => s.half).length;
      return {
        title:
          strings.length === 1
            ? 'Lay out the string, the spare beside it.'
            : 'Lay out {count} strings in order, the spare set beside them.',
        detail: `${strings.map((s) => `${s.number}: ${s.name}${s.half ? ', half' : ''}`).join(' · ')}. Uncoil wide: a kink stays, what is only flattened settles.`,
        reason: 'Strings do break while going on: a second set at the bench saves the day.',
        numbers: {
          count: {
            label: 'Strings',
            value: strings.length,
            unit: 'count',
            digits: 0,
            why: halves
              ? `${halves} of them are half of a double-length string.`
              : 'One for each position of this job.',
          },
        },
        check: {
          question: strings.length === 1 ? 'The right string?' : 'Right string in each place?',
          good: 'Ball colour or the mark on the envelope agrees with the gauge; of two without marks the one that flexes more easily is the thinner.',
          ifNot: 'wrong-string',
        },
        tools: [
          ...(build.head === 'pegbox' || build.tuner === 'friction-peg'
            ? []
            : ['winder', ...(isTrimmed(build, job.kind) || halves > 0 ? ['cutters'] : [])]),
          'tuner',
          'soft cloth',
        ],
        minutes: strings.length === 1 ? 0.3 : 0.6,
      };
    },
  },
  {
    id: 'prepare.mark-bridge',
    phase: 'prepare',
    scope: 'instrument',
    provides: 'hold-bridge',
    kinds: CHANGE_KINDS,
    when: (b) => b.bridge === 'floating',
    compose: ({ build, method }) => ({
      title: 'Mark where the bridge’s feet stand.',
      detail: isBowed(build.family)
        ? 'A pencil tick on low-tack tape beside each foot; feet belong between the inner nicks of the sound holes. A cloth under the tailpiece.'
        : 'A pencil tick on low-tack tape beside each foot.',
      reason: `Only the strings hold this bridge: it never stands with more than ${method.atATime === 2 ? 'two strings' : 'one string'} off.`,
      notYet:
        method.atATime === 2
          ? 'The other two stay at pitch until these two are near pitch.'
          : 'No second string off before this one is near pitch.',
      tools: ['masking tape', 'pencil', ...(isBowed(build.family) ? ['soft cloth'] : [])],
      minutes: 0.6,
    }),
  },
  {
    id: 'prepare.fine-tuners',
    phase: 'prepare',
    scope: 'instrument',
    provides: 'move-fine-tuners',
    kinds: CHANGE_KINDS,
    when: (b) => b.extras.includes('fine-tuners'),
    compose: () => ({
      title: 'Back the fine tuners off to mid travel.',
      detail: 'A lever screwed far in scratches the top.',
      reason: 'So that there is travel both ways when the new string is at pitch.',
      parts: [{ part: 'fine tuner', fate: 'keep-in-place', count: 0 }],
      minutes: 0.4,
    }),
  },
  {
    id: 'prepare.cover',
    phase: 'prepare',
    scope: 'instrument',
    provides: 'open-cover',
    kinds: CHANGE_KINDS,
    when: (b) => b.extras.includes('tailpiece-cover'),
    compose: ({ build }) => ({
      title: build.extras.includes('cover-slides')
        ? 'Slide the tailpiece cover off.'
        : 'Flip the tailpiece cover open.',
      detail: 'Never lever it.',
      reason: 'The hooks are under it.',
      parts: [{ part: 'tailpiece cover', fate: 'put-back', count: 1 }],
      minutes: 0.3,
    }),
  },
  {
    id: 'prepare.spikes',
    phase: 'prepare',
    scope: 'instrument',
    when: (b) => b.extras.includes('capo-spikes'),
    kinds: CHANGE_KINDS,
    compose: ({ order }) =>
      order.some((p) => p.speakingLengthMm !== undefined)
        ? {
            title: 'Free the short string from under the capo spikes.',
            reason: 'A string pulled out from under a spike kinks.',
            parts: [{ part: 'capo spikes', fate: 'keep-in-place', count: 0 }],
            minutes: 0.1,
          }
        : null,
  },
  {
    id: 'prepare.tape-tailpiece',
    phase: 'prepare',
    scope: 'instrument',
    kinds: CHANGE_KINDS,
    when: fallsOff,
    compose: ({ build, order }) =>
      order.length === build.positions.length
        ? {
            title: `Tape the ${build.tailEnd === 'wrap-around' ? 'bridge' : 'tailpiece and the bridge'} in place.`,
            detail:
              'Masking tape, lightly: it hangs on its studs and falls off when slack. Height posts stay untouched.',
            reason: 'With all strings off nothing holds it; the first string back on is what holds it.',
            tools: ['masking tape'],
            notYet: 'Do not lift or turn the instrument before the first string holds.',
            minutes: 0.5,
          }
        : null,
  },
  {
    id: 'prepare.wedge-block',
    phase: 'prepare',
    scope: 'instrument',
    kinds: CHANGE_KINDS,
    when: (b) => b.tailEnd === 'rear-block',
    compose: () => ({
      title: 'Open the back, wedge the vibrato block level with a wrapped piece of wood.',
      detail: 'The springs would pull it over as the strings go slack.',
      reason: 'Wedged, the new strings come to pitch as on a fixed bridge.',
      skipBecause: ['The bridge sits on the body', 'The back plate stays on'],
      parts: [{ part: 'back plate', fate: 'put-back', count: 1 }],
      tools: ['wrapped wedge'],
      minutes: 1,
    }),
  },
  {
    id: 'prepare.tree',
    phase: 'prepare',
    scope: 'instrument',
    when: (b) => b.extras.includes('string-tree'),
    compose: ({ build }) => ({
      title: underTree(build)
        ? 'A first: nothing holds it down, so wind all of it.'
        : 'Mind the string tree: new strings go under it before they are tight.',
      reason: 'A string tightened beside the tree has to come off again.',
      parts: [{ part: 'string tree', fate: 'keep-in-place', count: 0 }],
      minutes: 0.1,
    }),
  },
];
