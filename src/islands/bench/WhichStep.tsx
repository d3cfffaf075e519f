import type { Step } from '../../../core/procedures/types';
import { Key } from './Key';

/** Asks which, where several are on the screen. */
export function WhichStep({ steps, choose }: { steps: readonly Step[]; choose: (step: Step) => void }) {
  return (
    <div className="grid gap-2">
      {steps.map((s, i) => (
        <button
          key={s.key}
          type="button"
          className="btn justify-start text-left h-auto min-h-14 py-2 text-xl font-normal"
          onClick={() => choose(s)}
        >
          <Key>{String(i + 1)}</Key> {s.check?.question ?? s.title}
        </button>
      ))}
    </div>
  );
}
