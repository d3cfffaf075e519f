import { EndLabelShape, TakeWordShape } from '../../../../contract/bench';
import { endLabel, nothingInIt, takeUp } from '../../../../server/faults/byLabel';
import { action, actions } from '../../../api/actions';

/** What was said by labels: taken up, nothing in it; and a code that leads nowhere any more. */
export const POST = actions({
  take: action(TakeWordShape, (acting, body, { locals }) => takeUp(locals.db, acting, body)),
  nothing: action(TakeWordShape, (acting, body, { locals }) => nothingInIt(locals.db, acting, body)),
  end: action(EndLabelShape, (acting, body, { locals }) => endLabel(locals.db, acting, body)),
});
