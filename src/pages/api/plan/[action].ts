import { NothingShape, RemoveShape } from '../../../../contract/basics';
import {
  AvailabilityShape,
  AwayShape,
  BenchSpaceShape,
  BusyShape,
  CalendarShape,
  CalendarSourceShape,
  ClassShape,
  ConcertShape,
  HolidayShape,
  LastWayShape,
  MOST_CALENDAR_BYTES,
  OnceShape,
  PublishShape,
  RequestShape,
  SignOffShape,
  SwapShape,
  TravelShape,
  WeightsShape,
} from '../../../../contract/plan';
import {
  addAvailability,
  addOnce,
  removeAvailability,
  removeOnce,
  setAway,
  setBenchSpace,
  setLastWay,
  setTravel,
  swapPeople,
} from '../../../../server/plan/availability';
import { endBusy, removeBusy, setBusy } from '../../../../server/plan/busy';
import { importCalendar, removeCalendar } from '../../../../server/plan/calendar';
import { addClass, removeClass } from '../../../../server/plan/classes';
import { addConcert, removeConcert } from '../../../../server/plan/concerts';
import { addHoliday, removeHoliday } from '../../../../server/plan/holidays';
import { dismissProposal, proposePlan } from '../../../../server/plan/night';
import { publishPlan } from '../../../../server/plan/publish';
import { requestJob, withdrawRequest } from '../../../../server/plan/requests';
import { setSignOff } from '../../../../server/plan/signOffs';
import { saveWeights } from '../../../../server/plan/weights';
import { action, actions } from '../../../api/actions';

export const POST = actions({
  publish: action(PublishShape, (by, body, { locals }) => publishPlan(locals.db, by, body, { today: locals.today })),
  availability: action(AvailabilityShape, (by, body, { locals }) => addAvailability(locals.db, by, body)),
  remove: action(RemoveShape, (by, body, { locals }) => removeAvailability(locals.db, by, body)),
  away: action(AwayShape, (by, body, { locals }) => setAway(locals.db, by, body)),
  once: action(OnceShape, (by, body, { locals }) => addOnce(locals.db, by, body)),
  'not-once': action(RemoveShape, (by, body, { locals }) => removeOnce(locals.db, by, body)),
  swap: action(SwapShape, (by, body, { locals }) => swapPeople(locals.db, by, body)),
  'last-way': action(LastWayShape, (by, body, { locals }) => setLastWay(locals.db, by, body)),
  'bench-space': action(BenchSpaceShape, (by, body, { locals }) => setBenchSpace(locals.db, by, body)),
  travel: action(TravelShape, (by, body, { locals }) => setTravel(locals.db, by, body)),
  'sign-off': action(SignOffShape, (by, body, { locals }) => setSignOff(locals.db, by, body)),
  weights: action(WeightsShape, (by, body, { locals }) => saveWeights(locals.db, by, body)),
  calendar: action(
    CalendarShape,
    (by, body, { locals }) =>
      importCalendar(locals.db, by, {
        ...body,
        today: locals.today,
        timeZone: locals.programme.timeZone,
      }),
    2 * MOST_CALENDAR_BYTES,
  ),
  'no-calendar': action(CalendarSourceShape, (by, body, { locals }) =>
    removeCalendar(locals.db, by, { ...body, today: locals.today, timeZone: locals.programme.timeZone }),
  ),
  class: action(ClassShape, (by, body, { locals }) => addClass(locals.db, by, body)),
  'no-class': action(RemoveShape, (by, body, { locals }) => removeClass(locals.db, by, body)),
  busy: action(BusyShape, (by, body, { locals }) => setBusy(locals.db, by, body)),
  back: action(RemoveShape, (by, body, { locals }) => endBusy(locals.db, by, body)),
  'not-busy': action(RemoveShape, (by, body, { locals }) => removeBusy(locals.db, by, body)),
  holiday: action(HolidayShape, (by, body, { locals }) => addHoliday(locals.db, by, body)),
  'no-holiday': action(RemoveShape, (by, body, { locals }) => removeHoliday(locals.db, by, body)),
  concert: action(ConcertShape, (by, body, { locals }) => addConcert(locals.db, by, body, locals.programme.timeZone)),
  'no-concert': action(RemoveShape, (by, body, { locals }) =>
    removeConcert(locals.db, by, body, locals.programme.timeZone),
  ),
  request: action(RequestShape, (by, body, { locals }) => requestJob(locals.db, by, body)),
  withdraw: action(RemoveShape, (by, body, { locals }) => withdrawRequest(locals.db, by, body)),
  propose: action(NothingShape, (by, _, { locals }) => proposePlan(locals.db, by, { today: locals.today })),
  dismiss: action(RemoveShape, (by, body, { locals }) => dismissProposal(locals.db, by, body)),
});
