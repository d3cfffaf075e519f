import { PHASES, type Phase, type Procedure, type Step } from './types';

/** A stretch of a procedure under one heading, in the order in which it is worked. */
export interface Section {
  /** The phase, where the whole instrument is worked on; null for strings that are off together. */
  phase: Phase | null;
  /** The strings that go through all phases before the next are touched. */
  positions: number[];
  steps: Step[];
}

/**
 * A procedure cut into sections without changing its order: where strings are changed one or a few at a time, each
 * group is a section of its own from slackening to pitch. Gathered by phase instead, a card would say to slacken all.
 */
export function sectionsOf(procedure: Pick<Procedure, 'method' | 'steps'>): Section[] {
  const sections: Section[] = [];
  const grouped = procedure.method.atATime !== 'all';
  const byString = procedure.method.finish === 'by-string';
  const on = PHASES.indexOf('fit-tail');
  const [from, until] = [PHASES.indexOf('slacken'), PHASES.indexOf('stretch')];
  for (const step of procedure.steps) {
    const at = PHASES.indexOf(step.phase);
    const goesOnAlone = byString && at >= on && at < until && step.positions.length === 1;
    const inGroup = (grouped && at >= from && at < until) || goesOnAlone;
    const current = sections.at(-1);
    const same = current?.positions.length === 1 && current.positions[0] === step.positions[0];
    const goesOn = goesOnAlone
      ? current?.phase === null && same
      : inGroup
        ? current?.phase === null && step.id !== 'slacken.strings'
        : current?.phase === step.phase;
    if (current && goesOn) current.steps.push(step);
    else sections.push({ phase: inGroup ? null : step.phase, positions: inGroup ? step.positions : [], steps: [step] });
  }
  return sections;
}
