import { createColumnHelper, tableFeatures, useTable } from '@tanstack/react-table';
import { useWindowVirtualizer } from '@tanstack/react-virtual';
import { type ReactNode, useLayoutEffect, useMemo, useRef, useState } from 'react';

export interface Column<Row, Sort extends string> {
  id: string;
  title: string;
  /** What it is sorted by; absent: not sorted by it. */
  sort?: Sort;
  /** Its width, and from which width of the page on it is there. */
  col: string;
  cell: string;
  show: (row: Row) => ReactNode;
  /** What says in full what may be cut off. */
  hint?: (row: Row) => string;
}

interface Props<Row, Sort extends string> {
  caption: string;
  columns: readonly Column<Row, Sort>[];
  rows: readonly Row[];
  /** How many there are, of which the first are here. */
  total: number;
  keyOf: (row: Row) => string;
  sort: { by: Sort; descending: boolean };
  sortBy: (sort: Sort) => void;
  empty: ReactNode;
  /** Rows can be chosen, by their keys. */
  choice?: {
    chosen: ReadonlySet<string>;
    choose: (keys: readonly string[], chosen: boolean) => void;
    says: (row: Row) => string;
  };
}

/** Height of a row in pixels; all are of one height, and what does not fit is cut off. */
const ROW_PX = 46;
/** A window this high is taken for granted before there is one. */
const FIRST_PX = 2400;
const OVERSCAN = 12;

const features = tableFeatures({});

/**
 * A table of any length: only the rows near the window are in the page. The first column names its row; its link covers
 * the whole of it.
 */
export function Table<Row extends object, Sort extends string>(p: Props<Row, Sort>) {
  const { columns, rows, sort } = p;
  const known = useMemo(() => {
    const helper = createColumnHelper<typeof features, Row>();
    return helper.columns(columns.map((c) => helper.display({ id: c.id, header: c.title })));
  }, [columns]);
  const data = useMemo(() => [...rows], [rows]);
  const table = useTable({ features, columns: known, data, getRowId: p.keyOf });
  const model = table.getRowModel().rows;
  const head = useRef<HTMLTableSectionElement>(null);
  const [top, setTop] = useState(0);
  // What stands above the table may grow and shrink.
  useLayoutEffect(() => {
    const now = head.current ? head.current.getBoundingClientRect().bottom + window.scrollY : 0;
    if (Math.abs(now - top) > 1) setTop(now);
  });
  const shown = useWindowVirtualizer({
    count: model.length,
    estimateSize: () => ROW_PX,
    getItemKey: (index) => model[index]?.id ?? index,
    overscan: OVERSCAN,
    scrollMargin: top,
    initialRect: { width: 1280, height: FIRST_PX },
  });
  const items = shown.getVirtualItems();
  const before = items[0]?.index ?? 0;
  const after = model.length - 1 - (items.at(-1)?.index ?? -1);
  return (
    <div className="card-paper overflow-hidden">
      <table className="w-full table-fixed text-left" aria-rowcount={p.total + 1}>
        <caption className="sr-only">{p.caption}</caption>
        <colgroup>
          {p.choice && <col className="w-10" />}
          {columns.map((c) => (
            <col key={c.id} className={c.col} />
          ))}
        </colgroup>
        <thead className="text-sm" ref={head}>
          <tr aria-rowindex={1}>
            {p.choice && (
              <th scope="col" className="pl-3">
                <input
                  type="checkbox"
                  className="checkbox checkbox-sm align-middle"
                  aria-label="Choose all shown"
                  checked={rows.length > 0 && rows.every((r) => p.choice?.chosen.has(p.keyOf(r)))}
                  onChange={(e) => p.choice?.choose(rows.map(p.keyOf), e.target.checked)}
                />
              </th>
            )}
            {columns.map((c) => (
              <th
                key={c.id}
                scope="col"
                className={`px-2.5 py-2 font-semibold ${c.cell}`}
                aria-sort={c.sort === sort.by ? (sort.descending ? 'descending' : 'ascending') : undefined}
              >
                {c.sort ? (
                  <button
                    type="button"
                    className="cursor-pointer font-semibold whitespace-nowrap"
                    onClick={() => c.sort && p.sortBy(c.sort)}
                  >
                    {c.title}
                    <span aria-hidden="true" className="inline-block w-4 pl-1">
                      {c.sort === sort.by ? (sort.descending ? '↓' : '↑') : ''}
                    </span>
                  </button>
                ) : (
                  c.title
                )}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          <Gap rows={before} columns={columns.length + (p.choice ? 1 : 0)} />
          {items.map((item) => {
            const row = model[item.index];
            if (!row) return null;
            return (
              <tr
                key={row.id}
                aria-rowindex={item.index + 2}
                style={{ height: ROW_PX }}
                className="relative border-t border-base-300 hover:bg-base-100 focus-within:bg-base-100"
              >
                {p.choice && (
                  <td className="pl-3">
                    <input
                      type="checkbox"
                      className="checkbox checkbox-sm align-middle relative z-10"
                      aria-label={p.choice.says(row.original)}
                      checked={p.choice.chosen.has(p.keyOf(row.original))}
                      onChange={(e) => p.choice?.choose([p.keyOf(row.original)], e.target.checked)}
                    />
                  </td>
                )}
                {columns.map((c, i) =>
                  i === 0 ? (
                    <th key={c.id} scope="row" className={`px-2.5 font-normal ${c.cell}`}>
                      {c.show(row.original)}
                    </th>
                  ) : (
                    <td key={c.id} className={`px-2.5 ${c.cell}`} title={c.hint?.(row.original)}>
                      {c.show(row.original)}
                    </td>
                  ),
                )}
              </tr>
            );
          })}
          <Gap rows={after} columns={columns.length + (p.choice ? 1 : 0)} />
        </tbody>
      </table>
      {rows.length === 0 && <div className="p-6 muted">{p.empty}</div>}
    </div>
  );
}

/** As much room as rows take that are not in the page. */
function Gap({ rows, columns }: { rows: number; columns: number }) {
  if (rows <= 0) return null;
  return (
    <tr>
      <td colSpan={columns} style={{ height: rows * ROW_PX, padding: 0 }} />
    </tr>
  );
}
