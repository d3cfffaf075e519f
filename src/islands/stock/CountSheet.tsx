import { useEffect, useState } from 'react';
import { count } from '../../../core/count';
import type { ToCount } from '../../../server/stock/counts';
import { Field } from '../../ui/Field';
import { Told } from '../../ui/Told';
import { useCommand } from '../../ui/useCommand';
import { onScan } from '../scan';

const keyOf = (l: Pick<ToCount, 'productId' | 'form'>) => `${l.productId}/${l.form}`;
const FORMS = { set: 'sets', single: 'loose', half: 'halves' };

/** Counts a place by list, or by reading labels: each reading of a lot adds one to its line. */
export function CountSheet(p: {
  placeId: number;
  /** With the day of the last count in words. */
  lines: (ToCount & { counted: string | null; lots: number[] })[];
  reasons: readonly string[];
}) {
  const [counted, setCounted] = useState<Record<string, string>>({});
  const [reason, setReason] = useState('');
  const { run, says, quiet } = useCommand();
  const [scanned, setScanned] = useState('');
  const lines = p.lines.map((l) => {
    const text = counted[keyOf(l)] ?? '';
    const n = text === '' ? null : Number(text);
    return { ...l, n: n !== null && Number.isInteger(n) && n >= 0 ? n : null };
  });
  const done = lines.filter((l) => l.n !== null);
  const differs = done.filter((l) => l.n !== l.onHand);
  const set = (l: ToCount, text: string) => {
    quiet();
    setCounted((now) => ({ ...now, [keyOf(l)]: text }));
  };
  useEffect(
    () =>
      onScan((code) => {
        const lot = Number(/^LOT-(\d+)$/i.exec(code)?.[1]);
        const line = p.lines.find((l) => l.lots.includes(lot));
        if (!lot) return false;
        setScanned(line ? `${line.name}: one more` : `Lot ${lot} is not recorded here.`);
        if (line) {
          const k = keyOf(line);
          setCounted((now) => ({ ...now, [k]: String(Number(now[k] ?? 0) + 1) }));
        }
        return true;
      }),
    [p.lines],
  );
  const book = async () => {
    const counted = await run('/api/stock/count', {
      placeId: p.placeId,
      reason,
      lines: done.map((l) => ({ productId: l.productId, form: l.form, expected: l.onHand, counted: l.n ?? 0 })),
    });
    if (counted) location.reload();
  };
  return (
    <div className="grid gap-3">
      <p role="status" className="muted">
        {scanned || 'Type how many there are, or scan each label.'}
      </p>
      <div className="card-paper px-4 py-1">
        {lines.map((l) => (
          <label key={keyOf(l)} className="quiet-row py-1.5 flex flex-wrap items-center gap-x-3">
            <span className="grow min-w-48">
              {l.name} <span className="muted">{FORMS[l.form]}</span>
              <span className="muted text-sm block">
                {l.counted
                  ? `counted ${l.counted} by ${l.by}${l.lastDifference ? `, ${l.lastDifference > 0 ? '+' : ''}${l.lastDifference}` : ''}; movements since: ${l.moves}`
                  : `never counted; movements in a year: ${l.moves}`}
              </span>
            </span>
            {l.n !== null && l.n !== l.onHand && (
              <span className="text-error font-semibold">
                {l.n > l.onHand ? '+' : ''}
                {l.n - l.onHand}
              </span>
            )}
            {l.n !== null && l.n === l.onHand && <span className="muted">matches</span>}
            <input
              className="input w-20"
              type="number"
              min={0}
              value={counted[keyOf(l)] ?? ''}
              aria-label={`${l.name}, ${FORMS[l.form]}: counted`}
              onChange={(e) => set(l, e.currentTarget.value)}
            />
          </label>
        ))}
        {lines.length === 0 && <p className="py-2 muted">No stock is recorded here.</p>}
      </div>
      {differs.length > 0 && (
        <Field label={<>{count(differs.length, 'line differs', 'lines differ')}. Why?</>} large className="max-w-md">
          <input
            className="input w-full"
            list="reasons"
            value={reason}
            maxLength={300}
            onChange={(e) => {
              setReason(e.currentTarget.value);
            }}
          />
          <datalist id="reasons">
            {p.reasons.map((r) => (
              <option key={r}>{r}</option>
            ))}
          </datalist>
        </Field>
      )}
      <Told says={says} />
      <div>
        <button
          type="button"
          className="btn btn-primary"
          disabled={done.length === 0 || (differs.length > 0 && reason.trim().length < 3)}
          onClick={() => void book()}
        >
          Save {count(done.length, 'line')}
        </button>
      </div>
    </div>
  );
}
