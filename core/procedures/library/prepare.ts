import { describeBuild } from '../../instruments/build';
import type { StepDefinition } from '../types';
import { groupLabel, postPhrase } from '../words';

const fixedBridge: StepDefinition['when'] = (b) => b.bridge === 'fixed';

/** Laying the instrument down, slackening, and what must be true before anything is cut or pulled. */
export const PREPARE: StepDefinition[] = [
  {
    id: 'prepare.bench',
    phase: 'prepare',
    scope: 'instrument',
    provides: 'protect',
    compose: ({ build }) => ({
      title: 'Lay it on the padded bench, a roll under the neck.',
      detail: `${describeBuild(build.family, build.size)}: the neck carries the support, so the head takes no load.`,
      tools: ['padded bench or the open case', 'neck roll'],
      minutes: 1,
    }),
  },
  {
    id: 'prepare.layout',
    phase: 'prepare',
    scope: 'instrument',
    compose: ({ strings }) => {
      const halves = strings.filter((s) => s.half).length;
      return {
        title: `Lay out {count} strings in order, the spare set beside them.`,
        detail: `${strings.map((s) => `${s.number}: ${s.name}${s.half ? ', half' : ''}`).join(' · ')}.`,
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
          question: 'Right string in each place?',
          good: 'Thickest to thinnest as named; of two thin ones the one that flexes more easily is the thinner.',
          ifNot: 'wrong-string',
        },
        tools: ['winder', 'cutters', 'tuner', 'soft cloth'],
        minutes: 1,
      };
    },
  },
  {
    id: 'prepare.halve',
    phase: 'prepare',
    scope: 'string',
    compose: (_s, position, string) =>
      string.half
        ? {
            title: `Cut the ${position.note} string in the middle: half a string goes on.`,
            detail: `It is ${Math.round(string.lengthMm)} mm long. Fold it end to end, cut at the fold and put the other half back in its envelope, labelled. Already a half: go on.`,
            cautions: ['sharp-ends', 'cutters'],
            tools: ['cutters'],
            skipBecause: ['It is a half already'],
            undoable: false,
            minutes: 0.4,
          }
        : null,
  },
  {
    id: 'slacken.posts',
    phase: 'slacken',
    scope: 'group',
    provides: 'slacken',
    when: fixedBridge,
    compose: ({ build, group }, position) => ({
      title: `Slacken ${groupLabel(build, group)} completely, a hand resting on the strings.`,
      detail: `${postPhrase(build, position, 'loosens')} Pitch rising means the wrong way.`,
      check: {
        question: 'No note and no rattle when plucked?',
        good: 'Each string lies loose and silent.',
        ifNot: 'not-slack',
      },
      cautions: ['hand-over', 'powered-winder'],
      mistakes: ['not-slack'],
      tools: ['winder'],
      minutes: 0.3 * group.length + 0.3,
    }),
  },
];
