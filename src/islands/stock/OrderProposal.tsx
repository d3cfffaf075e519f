import { useEffect, useMemo, useState } from 'react';
import { count } from '../../../core/count';
import { sayDay } from '../../../core/dates';
import type { Proposal, ProposalLine, ProposalSupplier } from '../../../core/stock/proposal';
import { money } from '../../components/words';
import { Told } from '../../ui/Told';
import { useCommand } from '../../ui/useCommand';
import { ask } from './ask';

interface Props {
  lines: ProposalLine[];
  suppliers: (ProposalSupplier & { name: string; leadDays: number })[];
  names: Record<string, string>;
  placeId: number;
  today: string;
}

/** What to order from whom within a budget, and what a cut costs in instruments that wait. */
export function OrderProposal({ lines, suppliers, names, placeId, today }: Props) {
  const [budget, setBudget] = useState('');
  const [proposal, setProposal] = useState<Proposal | null>(null);
  const { run, says } = useCommand();
  const [changed, setChanged] = useState<Record<string, number>>({});
  const cents = budget.trim() === '' ? null : Math.round(Number(budget.replace(',', '.')) * 100);
  const valid = cents === null || (Number.isFinite(cents) && cents >= 0);
  useEffect(() => {
    if (!valid) return;
    const stop = new AbortController();
    setProposal(null);
    void ask((stock) => stock.propose(lines, suppliers, cents), stop.signal).then((found) => {
      if (!found) return;
      setProposal(found);
      setChanged({});
    });
    return () => stop.abort();
  }, [lines, suppliers, cents, valid]);
  const waits = useMemo(() => lines.flatMap((l) => l.late).length, [lines]);
  const draft = async (supplierId: string, of: { productId: string; packs: number }[]) => {
    const drafted = await run('/api/orders', {
      supplierId: Number(supplierId),
      placeId,
      lines: of.map((l) => ({ productId: Number(l.productId), quantity: l.packs })).filter((l) => l.quantity > 0),
      note: '',
    });
    if (drafted) location.assign(drafted.location);
  };
  return (
    <section className="grid gap-3" aria-labelledby="proposal">
      <div className="flex flex-wrap items-end justify-between gap-3">
        <div>
          <h2 id="proposal" className="font-bold">
            Order now
          </h2>
          <p className="muted" role="status">
            {proposal === null
              ? 'Working it out…'
              : proposal.orders.length === 0
                ? lines.length === 0
                  ? 'Nothing needs ordering.'
                  : 'Nothing fits the budget.'
                : `${money(proposal.cents)} in ${count(proposal.orders.length, 'order')}; ${
                    proposal.late.length
                      ? `${proposal.late.length} of ${count(waits, 'instrument')} would wait, ${count(proposal.lateDays, 'day')} in all`
                      : waits
                        ? `none of ${count(waits, 'instrument')} would have to wait`
                        : 'no instrument waits'
                  }.`}
          </p>
        </div>
        <label className="flex items-center gap-2">
          <span>Budget</span>
          <input
            className="input w-28"
            inputMode="decimal"
            placeholder="no limit"
            value={budget}
            aria-invalid={!valid}
            onChange={(e) => setBudget(e.currentTarget.value)}
          />
        </label>
      </div>
      {!valid && <p className="text-error">Enter the budget as a number, such as 250 or 249.50.</p>}
      {proposal?.orders.map((o) => {
        const supplier = suppliers.find((s) => s.supplierId === o.supplierId);
        const of = o.lines.map((l) => ({ ...l, packs: changed[l.productId] ?? l.packs }));
        const late = o.sendBy !== null && o.sendBy < today;
        return (
          <div key={o.supplierId} className="card-paper px-4 py-2">
            <div className="flex flex-wrap justify-between gap-x-3">
              <h3 className="font-bold">{supplier?.name}</h3>
              <span className={late ? 'text-error font-semibold' : 'muted'}>
                {o.sendBy
                  ? late
                    ? `overdue since ${sayDay(o.sendBy, today)}`
                    : `order by ${sayDay(o.sendBy, today)}`
                  : 'not urgent'}
                , arrives in {count(supplier?.leadDays ?? 0, 'day')}
              </span>
            </div>
            {of.map((l) => {
              const line = lines.find((x) => x.productId === l.productId);
              return (
                <div key={l.productId} className="quiet-row py-1.5 flex flex-wrap items-center gap-x-3">
                  <a className="link grow" href={`/stock/products/${l.productId}`}>
                    {names[l.productId]}
                  </a>
                  {line && line.late.length > 0 && (
                    <span className="muted text-sm">
                      {count(line.late.length, 'needs it', 'need it')}:{' '}
                      {line.late
                        .slice(0, 3)
                        .map((x) => x.tag)
                        .join(', ')}
                      {line.late.length > 3 && '…'}
                    </span>
                  )}
                  <input
                    type="number"
                    className="input input-sm w-20"
                    min={0}
                    step={line?.unit ?? 1}
                    value={l.packs}
                    aria-label={`${names[l.productId]}: how many`}
                    onChange={(e) => {
                      setChanged({ ...changed, [l.productId]: Number(e.currentTarget.value) });
                    }}
                  />
                  <span className="w-20 text-right">{money(l.packs * (line?.cents ?? 0))}</span>
                </div>
              );
            })}
            <div className="flex justify-between items-center pt-1.5">
              <b>
                {money(
                  of.reduce(
                    (sum, l) => sum + l.packs * (lines.find((x) => x.productId === l.productId)?.cents ?? 0),
                    0,
                  ),
                )}
              </b>
              <button type="button" className="btn btn-primary btn-sm" onClick={() => void draft(o.supplierId, of)}>
                Draft this order
              </button>
            </div>
          </div>
        );
      })}
      {proposal && proposal.late.length > 0 && (
        <p className="card-paper border-accent px-4 py-2">
          These wait unless the budget is raised:{' '}
          {proposal.late
            .slice(0, 8)
            .map((l) => `${l.tag} (${names[l.productId]}, ${count(l.days, 'day')})`)
            .join(', ')}
          {proposal.late.length > 8 && ` and ${proposal.late.length - 8} more`}.
        </p>
      )}
      {proposal && proposal.cut.length > 0 && (
        <p className="muted">
          Ordered less than advised: {proposal.cut.map((c) => `${names[c.productId]} (${c.packs} fewer)`).join(', ')}.
        </p>
      )}
      <Told says={says} />
    </section>
  );
}
