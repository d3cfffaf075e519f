import { isChange } from '../../../core/procedures/types';
import { Key } from './Key';
import type { BenchInHand, BenchProps } from './useBench';

/** What can be pressed now, each with its key. */
export function BenchFoot({ of, props }: { of: BenchInHand; props: BenchProps }) {
  const { job } = props;
  const {
    cursor,
    setPanel,
    setTuner,
    device,
    kit,
    index,
    screen,
    tuner,
    back,
    no,
    skips,
    locked,
    left,
    panel,
    onward,
  } = of;
  if (!screen || cursor === 'finish' || kit || !device) return null;
  return (
    <footer className="sticky bottom-0 bg-base-100 border-t border-base-300 px-5 py-2.5 flex flex-wrap items-center gap-2 text-lg">
      <button type="button" className="btn btn-primary min-h-14 text-xl px-6" onClick={onward}>
        <kbd className="kbd-key bg-transparent">space</kbd>{' '}
        {locked.length > 0
          ? 'locked: see why'
          : left.some((s) => s.gate)
            ? panel.kind === 'gate'
              ? 'back to the step'
              : 'done: confirm'
            : screen.steps.some((s) => s.check)
              ? screen.steps.length > 1
                ? 'all yes, next'
                : 'yes, next'
              : screen.steps.length > 1
                ? 'all done, next'
                : 'done, next'}
      </button>
      {screen.steps.some((s) => s.check) && (
        <button type="button" className="btn min-h-14 text-xl" onClick={no}>
          <Key>n</Key> {screen.steps.length > 1 ? 'no, which?' : 'no'}
        </button>
      )}
      <FootButton label="back" sign="⌫" act={back} disabled={index <= 0} />
      <FootButton label="problem" sign="m" act={() => setPanel({ kind: 'mistakes' })} />
      <FootButton label="tuner" sign="t" act={() => setTuner(!tuner)} pressed={tuner} />
      {skips.length > 0 && <FootButton label="skip" sign="s" act={() => setPanel({ kind: 'skip' })} />}
      <FootButton label="why" sign="w" act={() => setPanel({ kind: 'why' })} />
      {isChange(job.kind) && <FootButton label="change method" sign="d" act={() => setPanel({ kind: 'depart' })} />}
      <FootButton label="" sign="?" name="Keys" act={() => setPanel({ kind: 'help' })} />
    </footer>
  );
}

function FootButton(p: {
  label: string;
  sign: string;
  act: () => void;
  name?: string;
  disabled?: boolean;
  pressed?: boolean;
}) {
  return (
    <button
      type="button"
      className="btn btn-ghost min-h-14 text-lg px-3"
      onClick={p.act}
      disabled={p.disabled}
      aria-label={p.name}
      aria-pressed={p.pressed}
    >
      <Key>{p.sign}</Key> {p.label}
    </button>
  );
}
