import { useState } from 'react';
import { Told } from '../../ui/Told';
import { useCommand } from '../../ui/useCommand';

/** What a supplier answered to an order on paper: its number, the day, and how many it will send of each. */
export function ConfirmOrder(p: {
  id: number;
  version: number;
  theirNumber: string;
  expectedOn: string;
  lines: { productId: number; name: string; quantity: number }[];
}) {
  const [theirNumber, setNumber] = useState(p.theirNumber);
  const [expectedOn, setExpectedOn] = useState(p.expectedOn);
  const [amounts, setAmounts] = useState<Record<number, string>>(() =>
    Object.fromEntries(p.lines.map((l) => [l.productId, String(l.quantity)])),
  );
  const { run, busy, says } = useCommand();
  const keep = async () => {
    const lines = p.lines.map((l) => ({ productId: l.productId, quantity: amounts[l.productId] ?? '' }));
    const body = { expectedVersion: p.version, theirNumber, expectedOn, lines };
    if (await run(`/api/orders/${p.id}/confirm`, body)) location.reload();
  };
  return (
    <form
      className="grid gap-2 py-2"
      onSubmit={(event) => {
        event.preventDefault();
        void keep();
      }}
    >
      <div className="flex flex-wrap gap-3">
        <label className="grid gap-1">
          <span className="text-sm">Their order number</span>
          <input
            className="input input-sm"
            value={theirNumber}
            maxLength={60}
            onChange={(e) => setNumber(e.currentTarget.value)}
          />
        </label>
        <label className="grid gap-1">
          <span className="text-sm">They expect it on</span>
          <input
            type="date"
            className="input input-sm"
            value={expectedOn}
            required
            onChange={(e) => setExpectedOn(e.currentTarget.value)}
          />
        </label>
      </div>
      {p.lines.map((l) => (
        <label key={l.productId} className="flex justify-between items-center gap-3">
          <span>{l.name}</span>
          <input
            type="number"
            min={0}
            className="input input-sm w-24"
            aria-label={`${l.name}: how many they will send`}
            value={amounts[l.productId]}
            required
            onChange={(e) => setAmounts({ ...amounts, [l.productId]: e.currentTarget.value })}
          />
        </label>
      ))}
      <Told says={says} />
      <button type="submit" className="btn btn-sm justify-self-start" disabled={busy}>
        Keep what they answered
      </button>
    </form>
  );
}
