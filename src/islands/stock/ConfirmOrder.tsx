import { useRef, useState } from 'react';
import { newKey } from '../key';
import { post } from '../post';

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
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const key = useRef(newKey());
  const keep = async () => {
    setBusy(true);
    const lines = p.lines.map((l) => ({ productId: l.productId, quantity: amounts[l.productId] ?? '' }));
    const body = { expectedVersion: p.version, theirNumber, expectedOn, lines };
    const answer = await post(`/api/orders/${p.id}/confirm`, body, key.current);
    setBusy(false);
    if (answer.ok) return location.reload();
    if (answer.problem) key.current = newKey();
    setProblem(answer.problem?.detail ?? 'No answer from the server. Press again: it will count once.');
  };
  return (
    <form
      className="grid gap-2 py-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (!busy) void keep();
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
      {problem && (
        <p role="alert" className="text-error">
          {problem}
        </p>
      )}
      <button type="submit" className="btn btn-sm justify-self-start" disabled={busy}>
        Keep what they answered
      </button>
    </form>
  );
}
