import { useEffect, useState } from 'react';
import { count } from '../../../core/count';
import type { Demand, Pack } from '../../../core/stock/ahead';
import { ask } from './ask';

const DRAWS = 20_000;

/** Confirms by many futures, drawn in a worker, how likely a product runs short before an order could come. */
export function ChanceCheck(p: {
  pack: Omit<Pack, 'looseHalves'> & { looseHalves: [string, number][] };
  demand: Demand[];
  breaks: [string, number][];
  today: string;
  weeks: number;
  leadDays: number;
}) {
  const [chance, setChance] = useState<number | null>(null);
  useEffect(() => {
    const stop = new AbortController();
    const pack = { ...p.pack, looseHalves: new Map(p.pack.looseHalves) };
    void ask(
      (stock) =>
        stock.simulate(pack, p.demand, new Map(p.breaks), {
          today: p.today,
          weeks: p.weeks,
          leadDays: p.leadDays,
          draws: DRAWS,
        }),
      stop.signal,
    ).then((seen) => seen && setChance(seen.shortInLead));
    return () => stop.abort();
  }, [p.pack, p.demand, p.breaks, p.today, p.weeks, p.leadDays]);
  // Standard error of a share over so many draws, twice.
  const spread = chance === null ? 0 : 2 * Math.sqrt((chance * (1 - chance)) / DRAWS);
  return (
    <p className="muted" role="status">
      {chance === null
        ? 'Working out the risk…'
        : `About a ${(chance * 100).toFixed(1)} % chance (± ${Math.max(0.1, spread * 100).toFixed(1)}) of running short before an order sent today arrives, in ${count(p.leadDays, 'day')}.`}
    </p>
  );
}
