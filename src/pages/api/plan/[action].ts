import {
  addAvailability,
  removeAvailability,
  setAway,
  setBusy,
  setSignOff,
} from '../../../../server/plan/availability';
import { importCalendar } from '../../../../server/plan/calendar';
import { publishPlan } from '../../../../server/plan/plans';
import { PLAN_DAYS } from '../../../../server/plan/problem';
import { action, actions } from '../../../api/actions';
import {
  AvailabilityShape,
  AwayShape,
  BusyShape,
  CalendarShape,
  PublishShape,
  RemoveShape,
  SignOffShape,
} from '../../../api/shapes';

export const POST = actions({
  publish: action(PublishShape, (by, body, { locals }) => publishPlan(locals.db, by, body)),
  availability: action(AvailabilityShape, (by, body, { locals }) => addAvailability(locals.db, by, body)),
  remove: action(RemoveShape, (by, body, { locals }) => removeAvailability(locals.db, by, body)),
  away: action(AwayShape, (by, body, { locals }) => setAway(locals.db, by, body)),
  'sign-off': action(SignOffShape, (by, body, { locals }) => setSignOff(locals.db, by, body)),
  calendar: action(CalendarShape, (by, body, { locals }) =>
    importCalendar(locals.db, by, {
      ...body,
      today: locals.today,
      timeZone: locals.programme.timeZone,
      days: PLAN_DAYS,
    }),
  ),
  busy: action(BusyShape, (by, body, { locals }) => setBusy(locals.db, by, body)),
});
