import { useEffect, useMemo, useRef, useState } from 'react';
import { explainOpening } from '../../../core/stock/explain';
import { gapOf, type OpeningPlan, type OpeningProblem, type OpeningSupply } from '../../../core/stock/opening';
import { Told } from '../../ui/Told';
import { useCommand } from '../../ui/useCommand';
import { ask } from './ask';

interface Props {
  problem: Omit<OpeningProblem, 'contents' | 'loss'> & {
    contents: [string, { productId: string; count: number }[]][];
    loss: [string, number][];
  };
  names: Record<string, string>;
  places: Record<number, string>;
  quick: OpeningPlan;
  placeId: number;
}

const SECONDS = 20;

/** What to take from which shelf: a plan at once, then the proven one from a worker, with what is left to prove. */
export function KitSheet({ problem: sent, names, places, quick, placeId }: Props) {
  const problem = useMemo(
    (): OpeningProblem => ({ ...sent, contents: new Map(sent.contents), loss: new Map(sent.loss) }),
    [sent],
  );
  const [plan, setPlan] = useState(quick);
  const [working, setWorking] = useState(true);
  const stop = useRef<AbortController | null>(null);
  useEffect(() => {
    const end = new AbortController();
    stop.current = end;
    void ask((stock) => stock.open(problem, SECONDS), end.signal)
      .then((found) => found && setPlan(found))
      .finally(() => setWorking(false));
    return () => end.abort();
  }, [problem]);

  const name = (id: string) => names[id] ?? '';
  const short = (id: string) => name(id).split(', ').at(-1) ?? '';
  const says = explainOpening(problem, plan, name, short);
  const gap = gapOf(plan);
  const supply = (id: string) => problem.supplies.find((s) => s.id === id) as OpeningSupply;
  const lines = pullLines(plan, supply);
  const at = [...new Set(lines.map((l) => l.placeId))];
  // What lies elsewhere and is here today can be carried; what is under way cannot.
  const takes = lines
    .filter((l) => l.placeId !== placeId && !l.supplyId.startsWith('order'))
    .map((l) => ({ lotId: Number(l.supplyId.split('@')[0]), placeId: l.placeId, quantity: l.count }));
  const command = useCommand();
  const carry = async () => {
    if (await command.run('/api/stock/transfer', { takes, toPlaceId: placeId, reason: '', kit: true }))
      location.reload();
  };
  const worth = (plan.costCents / 100).toFixed(2);
  return (
    <div className="grid gap-5">
      <section aria-labelledby="says">
        <h2 id="says" className="sr-only">
          What to open
        </h2>
        <ul className="text-lg leading-relaxed">
          {says.map((line) => (
            <li key={line}>{line}</li>
          ))}
          {says.length === 0 && <li>Nothing to open: loose strings cover it all.</li>}
        </ul>
        <p className="muted mt-1" role="status">
          {working
            ? `First plan, ${worth}; looking for a cheaper one…`
            : gap === null
              ? `Cost ${worth}; there may be a cheaper way.`
              : gap < 1e-4
                ? `Cost ${worth} including waste; no cheaper way exists.`
                : `Cost ${worth}; at most ${(gap * 100).toFixed(1)} % above the cheapest way.`}
          {working && (
            <button type="button" className="link ml-2 print:hidden" onClick={() => stop.current?.abort()}>
              stop
            </button>
          )}
        </p>
      </section>
      {at.map((place) => (
        <section key={place} aria-label={`From ${places[place]}`}>
          <h2 className="font-bold mb-1">From {places[place]}</h2>
          <ul className="card-paper px-4 py-1">
            {lines
              .filter((l) => l.placeId === place)
              .map((l) => (
                <li
                  key={`${l.supplyId}/${l.productId}/${l.what}`}
                  className="quiet-row py-1.5 flex flex-wrap gap-x-4 items-baseline"
                >
                  <span
                    className="inline-block w-4 h-4 border border-base-content shrink-0 self-center"
                    aria-hidden="true"
                  />
                  <b className="w-10 text-right">{l.count}</b>
                  <span className="grow">{name(l.productId)}</span>
                  <span className="muted">
                    {l.what}
                    {l.supplyId.startsWith('order') ? ', on order' : `, lot ${l.supplyId.split('@')[0]}`}
                  </span>
                </li>
              ))}
          </ul>
        </section>
      ))}
      <div className="flex flex-wrap gap-3 print:hidden">
        <button type="button" className="btn" onClick={() => window.print()}>
          Print
        </button>
        {takes.length > 0 && (
          <button type="button" className="btn btn-primary" onClick={() => void carry()} disabled={working}>
            Move it all to {places[placeId]}, updating stock
          </button>
        )}
      </div>
      <Told says={command.says} />
    </div>
  );
}

interface PullLine {
  supplyId: string;
  productId: string;
  placeId: number;
  what: string;
  count: number;
}

/** What to take in hand, lot by lot: packs to open, spares to leave closed, loose strings and halves. */
function pullLines(plan: OpeningPlan, supply: (id: string) => OpeningSupply): PullLine[] {
  const lines = new Map<string, PullLine>();
  const add = (supplyId: string, productId: string, what: string, count: number) => {
    const key = `${supplyId}/${productId}/${what}`;
    const known = lines.get(key);
    if (known) known.count += count;
    else lines.set(key, { supplyId, productId, placeId: supply(supplyId).placeId, what, count });
  };
  for (const o of plan.opens) add(o.supplyId, supply(o.supplyId).productId, 'to open', o.count);
  for (const h of plan.halves)
    if (supply(h.supplyId).form === 'single') add(h.supplyId, h.productId, 'to cut in half', h.count);
  for (const u of plan.uses) {
    const { form } = supply(u.supplyId);
    if (form === 'half') add(u.supplyId, u.productId, 'half', u.count);
    if (form === 'single' && u.amount === 'whole') add(u.supplyId, u.productId, 'loose', u.count);
  }
  for (const s of plan.spares) {
    const { form } = supply(s.supplyId);
    // A spare out of a set that is opened anyway comes with it.
    if (form === 'set' && s.productId !== supply(s.supplyId).productId) continue;
    add(s.supplyId, s.productId, form === 'set' ? 'spare, unopened' : 'spare', s.count);
  }
  const rank = ['to open', 'spare, unopened', 'spare', 'to cut in half', 'loose', 'half'];
  return [...lines.values()].sort((a, b) => a.placeId - b.placeId || rank.indexOf(a.what) - rank.indexOf(b.what));
}
