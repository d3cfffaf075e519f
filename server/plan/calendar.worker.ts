import type { LocalDate } from '../../core/dates';
import type { Answered } from '../apart';
import { UserError } from '../errors';
import { answerWork, workerTask } from '../workerTask';
import { type CalendarReading, readCalendar } from './ics';

/** What the worker that reads calendars is given. */
export interface CalendarTask {
  text: string;
  from: LocalDate;
  until: LocalDate;
  timeZone: string;
}

const answer = ({ text, ...days }: CalendarTask): Answered<CalendarReading> => {
  try {
    return { made: readCalendar(text, days) };
  } catch (error) {
    if (!(error instanceof UserError)) throw error;
    const { type, status, title, detail } = error;
    return { refused: { type, status, title, detail } };
  }
};
answerWork(answer(await workerTask<CalendarTask>()));
