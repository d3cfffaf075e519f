import { useEffect, useRef, useState } from 'react';
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

/**
 * What stands in a field for a number: what was typed stays as it is typed. Every number within the range counts at once;
 * what is none yet, or lies outside, changes nothing and is said beside the field.
 */
function useTyped({ value, change, min, max, step = 1 }: NumberProps) {
  const [typed, setTyped] = useState<string | null>(null);
  const number = typed === null || typed.trim() === '' ? Number.NaN : Number(typed);
  const counts = number >= min && number <= max;
  // Another instrument was chosen, or another field changed this one: then that value stands here.
  const before = useRef(value);
  useEffect(() => {
    if (before.current === value) return;
    before.current = value;
    if (!counts || Math.abs(number - value) > step / 2) setTyped(null);
  }, [value, counts, number, step]);
  const wrong =
    typed === null || counts
      ? null
      : `${Number.isNaN(number) ? `Enter ${min} to ${max}` : `${min} to ${max} only`}; still using ${value}.`;
  const input = {
    type: 'number',
    value: typed ?? String(value),
    step,
    min,
    max,
    'aria-invalid': wrong !== null,
    onChange: (event: React.ChangeEvent<HTMLInputElement>) => {
      setTyped(event.target.value);
      const v = event.target.valueAsNumber;
      if (v >= min && v <= max) change(v);
    },
    onBlur: () => {
      if (counts) setTyped(null);
    },
  } as const;
  return { input, wrong };
}

export function NumberField({ label, ...p }: NumberProps & { label: string }) {
  const { input, wrong } = useTyped(p);
  return (
    <div>
      <Field label={label}>
        <input className={`input w-full ${wrong ? 'input-error' : ''}`} {...input} />
      </Field>
      {wrong && (
        <p className="text-error text-sm" role="alert">
          {wrong}
        </p>
      )}
    </div>
  );
}

/** The same in a row of a table, which says what it is. */
export function NumberCell({ name, ...p }: NumberProps & { name: string }) {
  const { input, wrong } = useTyped(p);
  return (
    <>
      <input className={`input input-sm w-20 ${wrong ? 'input-error' : ''}`} aria-label={name} {...input} />
      {wrong && (
        <span className="block text-error text-sm" role="alert">
          {wrong}
        </span>
      )}
    </>
  );
}

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
