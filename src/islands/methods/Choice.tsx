import type { ReactNode } from 'react';
import { Field } from '../../ui/Field';

export function Choice({ name, heads, children }: { name: string; heads: string[]; children: ReactNode }) {
  return (
    <div className="card-paper px-3 py-1 overflow-x-auto">
      <table className="w-full text-left" aria-label={name}>
        <thead className="sr-only sm:not-sr-only">
          <tr className="muted text-sm">
            <th className="font-normal py-1">
              <span className="sr-only">choice</span>
            </th>
            {heads.map((head) => (
              <th key={head} className="font-normal text-right px-2 whitespace-nowrap">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>{children}</tbody>
      </table>
    </div>
  );
}

export function Row(p: {
  group: string;
  label: string;
  does: string;
  bad?: boolean;
  badge?: string;
  checked: boolean;
  disabled?: boolean;
  onChoose: () => void;
  cells: string[];
}) {
  return (
    <tr className="quiet-row align-top">
      <td className="py-1.5">
        <label className="flex gap-2 items-start">
          <input
            type="radio"
            className="radio radio-sm mt-1"
            name={p.group}
            checked={p.checked}
            disabled={p.disabled}
            onChange={p.onChoose}
          />
          <span>
            {p.label}
            {p.badge && <span className={`chip ml-2 ${p.bad ? 'chip-soon' : 'chip-ok'}`}>{p.badge}</span>}
            <span className={`block text-sm ${p.bad ? 'text-warning' : 'muted'}`}>{p.does}</span>
          </span>
        </label>
      </td>
      {p.cells.map((cell, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the columns of one fixed table
        <td key={i} className="text-right px-2 py-1.5 whitespace-nowrap">
          {cell}
        </td>
      ))}
    </tr>
  );
}

export function Pick<V extends string | number>({
  label,
  value,
  options,
  onPick,
}: {
  label: string;
  value: V;
  options: readonly { value: V; name: string; does?: string }[];
  onPick: (value: V) => void;
}) {
  return (
    <Field label={label}>
      <select
        className="select w-full"
        value={value}
        onChange={(event) => {
          const picked = options.find((o) => String(o.value) === event.target.value);
          if (picked) onPick(picked.value);
        }}
      >
        {options.map((o) => (
          <option key={o.value} value={o.value}>
            {o.name}
          </option>
        ))}
      </select>
    </Field>
  );
}
