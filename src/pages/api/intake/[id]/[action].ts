import { DecideShape, IntakeVersionShape } from '../../../../../contract/intake';
import { NothingShape } from '../../../../../contract/people';
import { decide, dropIntake } from '../../../../../server/intake/intake';
import { runIntake, stopIntake } from '../../../../../server/intake/run';
import { undoIntake } from '../../../../../server/intake/undo';
import { action, actions } from '../../../../api/actions';
import { pathId } from '../../../../api/endpoint';

const of = (context: Parameters<typeof pathId>[0]) => ({ id: pathId(context) });

/** What is done with a sheet that came in: decided, taken over, stopped, taken back, put away. */
export const POST = actions({
  decide: action(DecideShape, (acting, body, c) => decide(c.locals.db, acting, { ...body, ...of(c) })),
  apply: action(IntakeVersionShape, (acting, body, c) => runIntake(c.locals.db, acting, { ...body, ...of(c) })),
  stop: action(NothingShape, async (_, __, c) => stopIntake(c.locals.db, of(c).id)),
  undo: action(IntakeVersionShape, (acting, body, c) => undoIntake(c.locals.db, acting, { ...body, ...of(c) })),
  drop: action(IntakeVersionShape, (acting, body, c) => dropIntake(c.locals.db, acting, { ...body, ...of(c) })),
});
