import type { Build } from '../../../core/instruments/build';
import { Field } from '../../ui/Field';
import { fittingSets, type KnownSet } from './known';

interface NumberProps {
  value: number;
  change: (value: number) => void;
  min: number;
  max: number;
  step?: number;
}

/** A number within its range; what lies outside is left standing and changes nothing. */
const heard =
  ({ min, max, change }: NumberProps) =>
  (event: React.ChangeEvent<HTMLInputElement>) => {
    const v = event.target.valueAsNumber;
    if (v >= min && v <= max) change(v);
  };

export function NumberField({ label, ...p }: NumberProps & { label: string }) {
  return (
    <Field label={label}>
      <input
        type="number"
        className="input w-full"
        value={p.value}
        step={p.step ?? 1}
        min={p.min}
        max={p.max}
        onChange={heard(p)}
      />
    </Field>
  );
}

/** The same in a row of a table, which says what it is. */
export const NumberCell = ({ name, ...p }: NumberProps & { name: string }) => (
  <input
    type="number"
    className="input input-sm w-20"
    aria-label={name}
    value={p.value}
    step={p.step ?? 1}
    min={p.min}
    max={p.max}
    onChange={heard(p)}
  />
);

export function Fact({ name, bad, children }: { name: string; bad?: boolean; children: string }) {
  return (
    <div className="quiet-row py-1.5">
      <dt className="muted text-sm">{name}</dt>
      <dd className={bad ? 'text-warning' : ''}>{children}</dd>
    </div>
  );
}

export function SetPicker({
  label,
  sets,
  build,
  none,
  onPick,
  onNone,
}: {
  label: string;
  sets: KnownSet[];
  build: Build;
  none?: boolean;
  onPick: (set: KnownSet) => void;
  onNone?: () => void;
}) {
  const fitting = fittingSets(build, sets);
  return (
    <label className="flex items-center gap-2">
      <span className="muted text-sm">{label}</span>
      <select
        className="select select-sm w-auto max-w-52"
        value=""
        onChange={(event) => {
          const set = fitting.find((s) => s.id === event.target.value);
          if (set) onPick(set);
          else if (event.target.value === 'none') onNone?.();
        }}
      >
        <option value="">choose</option>
        {none && <option value="none">nothing</option>}
        {fitting.map((s) => (
          <option key={s.id} value={s.id}>
            {s.name}
          </option>
        ))}
      </select>
    </label>
  );
}
