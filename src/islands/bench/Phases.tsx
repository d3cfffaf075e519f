import type { Screen } from '../../../core/procedures/led';

import { stageOf, unique } from './screen';

/** The phases of the job, with the one in hand. */
export function Phases({ screens, index }: { screens: readonly Screen[]; index: number }) {
  const phases = unique(screens.map(stageOf));
  const now = screens[index] && stageOf(screens[index] as Screen);
  return (
    <ol className="hidden xl:flex gap-3 text-[15px]" aria-label="Phases">
      {phases.map((phase) => (
        <li
          key={phase}
          className={phase === now ? 'font-bold text-primary border-b-2 border-primary' : 'muted'}
          aria-current={phase === now ? 'step' : undefined}
        >
          {phase.toLowerCase()}
        </li>
      ))}
    </ol>
  );
}
