import { TZDate } from '@date-fns/tz';
import { format } from 'date-fns';
import { weekdayStyle } from './dates';

/** "Thu 14:00", with the date when it is more than six days off. */
export function sayInstant(at: number, now: number, timeZone: string): string {
  const zoned = new TZDate(at, timeZone);
  return format(zoned, Math.abs(at - now) < 6 * 86_400_000 ? 'EEE HH:mm' : `${weekdayStyle()} HH:mm`);
}
