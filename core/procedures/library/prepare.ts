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
          ? 'Lay it on its back on a padded floor or bench, with a roll under the neck.'
          : 'Lay it on the padded bench with a roll under the neck.',
        detail: `${describeBuild(build.family, build.size)}: support it under the neck, not at its end.${build.bridge === 'fixed' && !['electric', 'bass-guitar'].includes(build.family) ? ' Keep a cloth over the top while ends hang from the bridge.' : ''}`,
        reason: 'Never on a bare table: it marks the finish and strains the neck.',
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
            ? 'Lay out the string with the spare beside it.'
            : 'Lay out {count} strings in order, with the spare set beside them.',
        detail: `${strings.map((s) => `${s.number}: ${s.name}${s.half ? ', half-length' : ''}`).join(' · ')}. Uncoil loosely: a kink stays, a gentle curve settles.`,
        reason: 'Strings sometimes break going on: keep a second set at the bench.',
        numbers: {
          count: {
            label: 'Strings',
            value: strings.length,
            unit: 'count',
            digits: 0,
            why: halves ? `Half-length strings among them: ${halves}.` : 'One for each string in this change.',
          },
        },
        check: {
          question: strings.length === 1 ? 'The right string?' : 'Right string in each place?',
          good: 'Ball colour or envelope mark agrees with the gauge; if two are unmarked, the one that bends more easily is the thinner.',
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
      title: 'Mark where the bridge feet stand.',
      detail: isBowed(build.family)
        ? 'A pencil tick on low-tack tape beside each foot; the feet belong between the inner nicks of the f-holes. Put a cloth under the tailpiece.'
        : 'A pencil tick on low-tack tape beside each foot.',
      reason: `Only string tension holds this bridge: never have more than ${method.atATime === 2 ? 'two strings' : 'one string'} off.`,
      notYet:
        method.atATime === 2
          ? 'The other two stay at pitch until these two are near pitch.'
          : 'Do not slacken the next string until this one is near pitch.',
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
      title: 'Set the fine tuners to mid travel.',
      detail: 'Screwed right down, the lever can scratch the top.',
      reason: 'Leaves room to tune both ways once the new string is at pitch.',
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
            title: 'Unhook the fifth string from any capo spike.',
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
              'Masking tape, lightly: it only rests on its studs and drops off when slack. Leave the height posts alone.',
            reason: 'Nothing holds it once all strings are off; the first string back on holds it again.',
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
      title: 'Take off the back plate and block the vibrato level with a padded wedge.',
      detail: 'Otherwise the springs pull it back as the strings slacken.',
      reason: 'Blocked, it tunes up like a fixed bridge.',
      skipBecause: ['The bridge rests on the body', 'The back plate stays on'],
      parts: [{ part: 'back plate', fate: 'put-back', count: 1 }],
      tools: ['padded wedge'],
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
      reason: 'A string tightened outside the tree has to come off again.',
      parts: [{ part: 'string tree', fate: 'keep-in-place', count: 0 }],
      minutes: 0.1,
    }),
  },
];
