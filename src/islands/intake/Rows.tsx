import { useState } from 'react';
import type { IntakeView } from '../../../server/intake/intake';

interface Decision {
  field?: { column: number; key: string | null };
  cells?: { row: number; column: number; value: string }[];
  out?: { rows: number[]; out: boolean };
}

const DOES = {
  add: ['chip-ok', 'new'],
  change: ['chip-settling', 'changes'],
  same: ['chip-plain', 'unchanged'],
  out: ['chip-plain', 'left out'],
  problem: ['chip-late', 'to sort out'],
} as const;

/** The rows of a list: what each does, what is wrong with it and how it could be; cells are put right in place. */
export function Rows({
  view,
  decide,
  busy,
}: {
  view: IntakeView;
  decide: (d: Decision) => Promise<void>;
  busy: boolean;
}) {
  const [editing, setEditing] = useState<number | null>(null);
  const columns = view.heads.map((heading, column) => ({ heading, column, key: `column-${column}` }));
  return (
    // What scrolls has to be reached by keys as well.
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls
    <section className="card-paper overflow-x-auto" tabIndex={0} aria-label="Rows of the list">
      <table className="w-full text-left">
        <thead className="text-sm">
          <tr>
            <th scope="col" className="px-3 py-2 align-bottom">
              Row
            </th>
            <th scope="col" className="px-2 py-2 align-bottom">
              What happens
            </th>
            {columns.map(({ heading, column, key }) => (
              <th key={key} scope="col" className="px-2 py-2 align-bottom font-normal">
                <span className="block max-w-40 truncate">{heading || `column ${column + 1}`}</span>
                <select
                  className={`select select-xs w-32 ${view.fields[column] ? 'font-bold text-primary' : 'muted'}`}
                  aria-label={`Meaning of column ${heading || column + 1}`}
                  value={view.fields[column] ?? ''}
                  disabled={busy}
                  onChange={(e) => void decide({ field: { column, key: e.target.value || null } })}
                >
                  <option value="">left out</option>
                  {view.choices.map((c) => (
                    <option key={c.key} value={c.key}>
                      {c.name}
                    </option>
                  ))}
                </select>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {view.rows.map((r) => {
            const [chip, says] = DOES[r.does];
            const wrong = new Set(r.remarks.filter((m) => m.bad && m.column !== null).map((m) => m.column));
            return (
              <tr key={r.row} className="border-t border-base-300 align-top">
                <th scope="row" className="px-3 py-1.5 font-normal muted tabular-nums">
                  {r.row}
                </th>
                <td className="px-2 py-1.5 min-w-64">
                  <span className={`chip ${chip}`}>{says}</span> {r.says && <span>{r.says}</span>}
                  {r.remarks.map((m) => (
                    <span key={`${m.column}-${m.says}`} className={`block ${m.bad ? 'text-error' : 'text-warning'}`}>
                      {m.column !== null && m.column >= 0 && view.heads[m.column] ? `${view.heads[m.column]}: ` : ''}
                      {m.says}{' '}
                      {m.fixes.map((fix) => (
                        <button
                          key={fix}
                          type="button"
                          className="btn btn-xs"
                          disabled={busy || m.column === null || m.column < 0}
                          onClick={() =>
                            void decide({ cells: [{ row: r.row, column: m.column as number, value: fix }] })
                          }
                        >
                          {fix}?
                        </button>
                      ))}
                    </span>
                  ))}
                  <span className="flex gap-2 mt-1">
                    {r.does !== 'out' && (
                      <button
                        type="button"
                        className="link text-sm"
                        onClick={() => setEditing(editing === r.row ? null : r.row)}
                      >
                        {editing === r.row ? 'done' : 'edit'}
                      </button>
                    )}
                    <button
                      type="button"
                      className="link text-sm"
                      disabled={busy}
                      onClick={() => void decide({ out: { rows: [r.row], out: r.does !== 'out' } })}
                    >
                      {r.does === 'out' ? 'include' : 'leave out'}
                    </button>
                  </span>
                </td>
                {columns.map(({ heading, column, key }) => {
                  const value = r.cells[column] ?? '';
                  const input = wrong.has(column) || editing === r.row;
                  return (
                    <td
                      key={key}
                      className={`px-2 py-1.5 ${view.fields[column] ? '' : 'muted'} ${view.fields[column] === 'tag' ? 'tag' : ''}`}
                    >
                      {input ? (
                        <input
                          key={value}
                          className={`input input-sm min-w-24 ${wrong.has(column) ? 'border-error' : ''}`}
                          aria-label={`${heading || `Column ${column + 1}`} in row ${r.row}`}
                          defaultValue={value}
                          disabled={busy}
                          onBlur={(e) =>
                            e.target.value.trim() !== value &&
                            void decide({ cells: [{ row: r.row, column, value: e.target.value.trim() }] })
                          }
                          onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
                        />
                      ) : (
                        <span className="block max-w-56 break-words line-clamp-2" title={value}>
                          {value}
                        </span>
                      )}
                    </td>
                  );
                })}
              </tr>
            );
          })}
        </tbody>
      </table>
      {view.rows.length === 0 && <p className="muted p-4">No rows of this kind.</p>}
    </section>
  );
}
