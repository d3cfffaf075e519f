import { expose } from 'comlink';
import loadHighs from 'highs';
import wasmUrl from 'highs/runtime?url';
import { seededChance } from '../../core/chance';
import { type Breaks, type Demand, type Outlook, outlook, type Pack } from '../../core/stock/ahead';
import { Opening, type OpeningPlan, type OpeningProblem } from '../../core/stock/opening';
import { type Proposal, type ProposalLine, type ProposalSupplier, proposeOrders } from '../../core/stock/proposal';

const highs = loadHighs({ locateFile: () => wasmUrl });

/** What the shelf's screens have worked out beside them. */
const stock = {
  async open(problem: OpeningProblem, seconds: number): Promise<OpeningPlan | null> {
    return new Opening(problem).solve(await highs, { seconds });
  },
  async propose(
    lines: readonly ProposalLine[],
    suppliers: readonly ProposalSupplier[],
    budgetCents: number | null,
  ): Promise<Proposal> {
    return proposeOrders(await highs, lines, suppliers, budgetCents);
  },
  async simulate(
    pack: Pack,
    demand: readonly Demand[],
    breaks: Breaks,
    p: { today: string; weeks: number; leadDays: number; draws: number },
  ): Promise<Outlook> {
    return outlook(pack, demand, breaks, { ...p, random: seededChance(4129) });
  },
};
export type StockWorker = typeof stock;
expose(stock);
