import type { RefObject } from 'react';
import type { Screen } from '../../../core/procedures/led';
import { type Check, type Method, PHASE_NAMES, type Step } from '../../../core/procedures/types';
import type { BenchView } from '../../../server/bench/page';

export interface ScreenProps {
  screens: readonly Screen[];
  index: number;
  bench: BenchView;
  method: Method | undefined;
  heading: RefObject<HTMLHeadingElement | null>;
  ticked: ReadonlySet<string>;
  tick: (steps: readonly Step[]) => void;
  /** Only what has to be seen beside the tuner. */
  compact: boolean;
}

export const unique = <T>(list: readonly T[]): T[] => [...new Set(list)];

export const lowerFirst = (text: string): string => text.charAt(0).toLowerCase() + text.slice(1);

/** Where in the job a screen is: its phase, or among the strings that come off and go on one at a time. */
export const stageOf = (screen: Screen): string =>
  screen.kind === 'one-string' || screen.steps[0]?.id === 'near-pitch.bridge'
    ? 'One string at a time'
    : PHASE_NAMES[screen.phase];

/** What is asked on a screen, each question once, with the strings or steps it is asked of. */
export function checksOf(screen: Screen): { check: Check; steps: Step[] }[] {
  const found = new Map<string, { check: Check; steps: Step[] }>();
  for (const step of screen.steps) {
    if (!step.check) continue;
    const known = found.get(step.check.question);
    if (known) known.steps.push(step);
    else found.set(step.check.question, { check: step.check, steps: [step] });
  }
  return [...found.values()];
}
