import { useState } from 'react';
import { count } from '../../../core/count';
import { money } from '../../components/words';
import { Field } from '../../ui/Field';
import { Told } from '../../ui/Told';
import { useCommand } from '../../ui/useCommand';

interface Line {
  productId: number;
  name: string;
  quantity: number;
  cents: number;
  unit: number;
}

/** The lines of a draft to change and place, or of what has come to count. */
export function OrderLines(p: {
  kind: 'draft' | 'delivery' | 'part';
  /** Of the order, or of a delivery that was announced. */
  id: number;
  /** Answers and delivers by itself, in the demo. */
  simulated?: boolean;
  version: number;
  lines: Line[];
  note: string;
  leastCents: number;
}) {
  const [amounts, setAmounts] = useState<Record<number, number>>(() =>
    Object.fromEntries(p.lines.map((l) => [l.productId, l.quantity])),
  );
  const [note, setNote] = useState(p.note);
  const { run, says, quiet } = useCommand();
  const [sure, setSure] = useState(false);
  const lines = p.lines.map((l) => ({ productId: l.productId, quantity: amounts[l.productId] ?? 0 }));
  const total = p.lines.reduce((sum, l) => sum + l.cents * (amounts[l.productId] ?? 0), 0);
  const changed = note !== p.note || p.lines.some((l) => amounts[l.productId] !== l.quantity);
  const differs = p.lines.filter((l) => amounts[l.productId] !== l.quantity).length;
  const expectedVersion = p.version;
  const go = (answer: { location?: string } | object | null): void => {
    if (!answer) return;
    if ('location' in answer && answer.location) location.assign(answer.location);
    else location.reload();
  };
  const draft = p.kind === 'draft';
  const came = p.lines.some((l) => (amounts[l.productId] ?? 0) > 0);
  const expected = p.kind === 'part' ? 'outstanding' : 'expected';
  return (
    <div className="max-w-3xl grid gap-3">
      <div className="card-paper px-4 py-1">
        {p.lines.map((l) => (
          <label key={l.productId} className="quiet-row py-1.5 flex flex-wrap items-center gap-x-3">
            <span className="grow">{l.name}</span>
            {!draft && amounts[l.productId] !== l.quantity && (
              <span className={p.kind === 'part' ? 'muted' : 'text-error font-semibold'}>
                {l.quantity} {expected}
              </span>
            )}
            <input
              type="number"
              min={0}
              step={l.unit}
              className="input w-24"
              value={amounts[l.productId] ?? 0}
              aria-label={`${l.name}: ${draft ? 'how many' : 'counted'}`}
              onChange={(e) => {
                quiet();
                setAmounts({ ...amounts, [l.productId]: Number(e.currentTarget.value) });
              }}
            />
            {draft && <span className="w-20 text-right">{money(l.cents * (amounts[l.productId] ?? 0))}</span>}
          </label>
        ))}
      </div>
      {draft && (
        <Field label="Note to the supplier" large>
          <input
            className="input w-full"
            value={note}
            maxLength={300}
            onChange={(e) => setNote(e.currentTarget.value)}
          />
        </Field>
      )}
      <Told says={says} />
      <div className="flex flex-wrap items-center gap-3">
        {draft ? (
          <>
            <button
              type="button"
              className="btn"
              disabled={!changed}
              onClick={() => void run(`/api/orders/${p.id}/edit`, { expectedVersion, lines, note }).then(go)}
            >
              Save changes
            </button>
            <button
              type="button"
              className="btn btn-primary"
              disabled={changed}
              onClick={() => void run(`/api/orders/${p.id}/send`, { expectedVersion }).then(go)}
            >
              {p.simulated ? 'Send to the simulated supplier' : 'Mark as ordered'}
            </button>
            <button
              type="button"
              className="btn btn-ghost"
              onClick={() =>
                sure ? void run(`/api/orders/${p.id}/cancel`, { expectedVersion }).then(go) : setSure(true)
              }
            >
              {sure ? 'Yes, cancel it' : 'Cancel the order'}
            </button>
            <span className={total < p.leastCents ? 'text-warning' : 'muted'}>
              {money(total)}
              {total < p.leastCents && `, below the minimum order of ${money(p.leastCents)}`}
            </span>
          </>
        ) : p.kind === 'part' ? (
          <button
            type="button"
            className="btn btn-primary"
            disabled={!came}
            onClick={() => void run(`/api/orders/${p.id}/receive`, { expectedVersion, lines }).then(go)}
          >
            {differs ? 'Receive what arrived; the rest is to follow' : 'Receive all'}
          </button>
        ) : (
          <button
            type="button"
            className="btn btn-primary"
            onClick={() => void run(`/api/deliveries/${p.id}/receive`, { expectedVersion, lines }).then(go)}
          >
            {differs ? `Receive; ${count(differs, 'line differs', 'lines differ')}` : 'Receive as expected'}
          </button>
        )}
      </div>
    </div>
  );
}
