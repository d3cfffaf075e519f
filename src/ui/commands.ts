import type { z } from 'zod';
import type { VersionShape } from '../../contract/basics';
import type { DepartShape, OpenJobShape } from '../../contract/bench';
import type { KeepFactShape, ManyShape, UndoManyShape } from '../../contract/fleet';
import type { DecideShape, IntakeVersionShape } from '../../contract/intake';
import type { SaveHouseShape, SaveIntervalShape, WithdrawIntervalShape } from '../../contract/methods';
import type { LeadShape, PractisedShape } from '../../contract/people';
import type { AwayShape, CalendarShape, OnceShape, PublishShape, WeightsShape } from '../../contract/plan';
import type {
  ConfirmShape,
  CountShape,
  DraftShape,
  EditDraftShape,
  ReceiveShape,
  TransferShape,
} from '../../contract/stock';
import type { departJob } from '../../server/bench/depart';
import type { openJob } from '../../server/bench/jobs';
import type { keepFact } from '../../server/fleet/facts';
import type { changeMany, undoMany } from '../../server/fleet/many';
import type { decide, dropIntake } from '../../server/intake/intake';
import type { runIntake, stopIntake } from '../../server/intake/run';
import type { undoIntake } from '../../server/intake/undo';
import type { saveHouse } from '../../server/methods/houseMethods';
import type { saveInterval, withdrawInterval } from '../../server/methods/intervals';
import type { setLead } from '../../server/people/people';
import type { recordPractice } from '../../server/people/practice';
import type { addOnce, setAway } from '../../server/plan/availability';
import type { importCalendar } from '../../server/plan/calendar';
import type { proposePlan } from '../../server/plan/night';
import type { publishPlan } from '../../server/plan/publish';
import type { saveWeights } from '../../server/plan/weights';
import type { countPlace } from '../../server/stock/counts';
import type { transfer } from '../../server/stock/moves';
import type { cancelOrder, confirmOrder, editDraft, sendOrder } from '../../server/stock/orders';

/** What an endpoint is asked in, and what of the server answers it. */
interface Endpoint<S extends z.ZodType, Run extends (...args: never[]) => Promise<unknown>> {
  asks: z.input<S>;
  answers: Awaited<ReturnType<Run>>;
}

/** Where to go on after it. */
interface Leads {
  location?: string;
}

/** What can be asked of the server by a screen that waits for the answer. Forms without a script send themselves. */
export interface Commands {
  '/api/intervals': Endpoint<typeof SaveIntervalShape, typeof saveInterval>;
  '/api/intervals/withdraw': Endpoint<typeof WithdrawIntervalShape, typeof withdrawInterval>;
  [fact: `/api/instruments/${string}/facts`]: Endpoint<typeof KeepFactShape, typeof keepFact>;
  [decideList: `/api/intake/${number}/decide`]: Endpoint<typeof DecideShape, typeof decide>;
  [applyList: `/api/intake/${number}/apply`]: Endpoint<typeof IntakeVersionShape, typeof runIntake>;
  [stopList: `/api/intake/${number}/stop`]: { asks: object; answers: ReturnType<typeof stopIntake> };
  [undoList: `/api/intake/${number}/undo`]: Endpoint<typeof IntakeVersionShape, typeof undoIntake>;
  [dropList: `/api/intake/${number}/drop`]: Endpoint<typeof IntakeVersionShape, typeof dropIntake>;
  '/api/fleet/many': Endpoint<typeof ManyShape, typeof changeMany>;
  '/api/fleet/undo': Endpoint<typeof UndoManyShape, typeof undoMany>;
  '/api/jobs': Endpoint<typeof OpenJobShape, typeof openJob>;
  '/api/orders': { asks: z.input<typeof DraftShape>; answers: { orderId: number; location: string } };
  '/api/people/practised': Endpoint<typeof PractisedShape, typeof recordPractice>;
  '/api/people/lead': Endpoint<typeof LeadShape, typeof setLead>;
  '/api/plan/away': Endpoint<typeof AwayShape, typeof setAway>;
  '/api/plan/once': Endpoint<typeof OnceShape, typeof addOnce>;
  '/api/plan/calendar': Endpoint<typeof CalendarShape, typeof importCalendar>;
  '/api/plan/propose': { asks: object; answers: Awaited<ReturnType<typeof proposePlan>> };
  '/api/plan/publish': Endpoint<typeof PublishShape, typeof publishPlan>;
  '/api/plan/weights': Endpoint<typeof WeightsShape, typeof saveWeights>;
  '/api/stock/count': Endpoint<typeof CountShape, typeof countPlace>;
  '/api/stock/transfer': Endpoint<typeof TransferShape, typeof transfer>;
  [depart: `/api/jobs/${number}/depart`]: Endpoint<typeof DepartShape, typeof departJob>;
  [house: `/api/methods/${string}`]: Endpoint<typeof SaveHouseShape, typeof saveHouse>;
  [edit: `/api/orders/${number}/edit`]: Endpoint<typeof EditDraftShape, typeof editDraft>;
  [send: `/api/orders/${number}/send`]: Endpoint<typeof VersionShape, typeof sendOrder>;
  [confirm: `/api/orders/${number}/confirm`]: Endpoint<typeof ConfirmShape, typeof confirmOrder>;
  [cancel: `/api/orders/${number}/cancel`]: Endpoint<typeof VersionShape, typeof cancelOrder>;
  [part: `/api/orders/${number}/receive`]: { asks: z.input<typeof ReceiveShape>; answers: Leads };
  [delivery: `/api/deliveries/${number}/receive`]: { asks: z.input<typeof ReceiveShape>; answers: Leads };
}
export type CommandUrl = keyof Commands;
export type Asked<U extends CommandUrl> = Commands[U]['asks'];
export type Answered<U extends CommandUrl> = Commands[U]['answers'];
