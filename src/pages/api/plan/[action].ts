import {
  addAvailability,
  removeAvailability,
  setAway,
  setBusy,
  setSignOff,
} from '../../../../server/plan/availability';
import { publishPlan } from '../../../../server/plan/plans';
import { action, actions } from '../../../api/actions';
import { AvailabilityShape, AwayShape, BusyShape, PublishShape, RemoveShape, SignOffShape } from '../../../api/shapes';

export const POST = actions({
  publish: action(PublishShape, (by, body, { locals }) => publishPlan(locals.db, by, body)),
  availability: action(AvailabilityShape, (by, body, { locals }) => addAvailability(locals.db, by, body)),
  remove: action(RemoveShape, (by, body, { locals }) => removeAvailability(locals.db, by, body)),
  away: action(AwayShape, (by, body, { locals }) => setAway(locals.db, by, body)),
  'sign-off': action(SignOffShape, (by, body, { locals }) => setSignOff(locals.db, by, body)),
  busy: action(BusyShape, (by, body, { locals }) => setBusy(locals.db, by, body)),
});
