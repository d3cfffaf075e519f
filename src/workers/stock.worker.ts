import loadHighs from 'highs';
import wasmUrl from 'highs/runtime?url';
import { seededChance } from '../../core/chance';
import { type Breaks, type Demand, type Outlook, outlook, type Pack } from '../../core/stock/ahead';
import { Opening, type OpeningPlan, type OpeningProblem } from '../../core/stock/opening';
import { type Proposal, type ProposalLine, type ProposalSupplier, proposeOrders } from '../../core/stock/proposal';

export type ToStock =
  | { kind: 'open'; problem: OpeningProblem; seconds: number }
  | { kind: 'propose'; lines: ProposalLine[]; suppliers: ProposalSupplier[]; budgetCents: number | null }
  | {
      kind: 'simulate';
      pack: Pack;
      demand: Demand[];
      breaks: Breaks;
      today: string;
      weeks: number;
      leadDays: number;
      draws: number;
    };
export type FromStock =
  | { kind: 'plan'; plan: OpeningPlan | null }
  | { kind: 'proposal'; proposal: Proposal }
  | { kind: 'outlook'; outlook: Outlook };

const highs = loadHighs({ locateFile: () => wasmUrl });

self.onmessage = async (event: MessageEvent<ToStock>) => {
  const m = event.data;
  const answer = (message: FromStock) => self.postMessage(message);
  if (m.kind === 'open')
    answer({ kind: 'plan', plan: new Opening(m.problem).solve(await highs, { seconds: m.seconds }) });
  if (m.kind === 'propose')
    answer({ kind: 'proposal', proposal: proposeOrders(await highs, m.lines, m.suppliers, m.budgetCents) });
  if (m.kind === 'simulate') {
    const { pack, demand, breaks, ...p } = m;
    answer({ kind: 'outlook', outlook: outlook(pack, demand, breaks, { ...p, random: seededChance(4129) }) });
  }
};
