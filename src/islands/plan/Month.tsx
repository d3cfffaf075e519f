import { count } from '../../../core/count';
import { addDays, sayDay, weekdayOf } from '../../../core/dates';
import { daysIntoWeek, weekOrder } from '../../../core/manner';
import type { PlanInput } from '../../../server/plan/problem';
import type { PlanInHand } from './usePlan';

const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as const;

/** Four weeks at a glance: where people are, how full their time is, what is late, and the walls ahead. */
export function Month({
  input,
  hand,
  chooseShift,
}: {
  input: PlanInput;
  hand: PlanInHand;
  chooseShift: (shift: number) => void;
}) {
  const { first, people, places, concerts, holidays } = input;
  const { open, inShift, used } = hand;
  // Whole weeks of the programme, whatever day it is today.
  const lead = daysIntoWeek(weekdayOf(first));
  const names = weekOrder().map((w) => WEEKDAYS[w - 1] as string);
  const weeks = Math.ceil((lead + open.days) / 7);
  const byDay = new Map<number, number[]>();
  open.shifts.forEach((s, i) => {
    byDay.set(s.day, [...(byDay.get(s.day) ?? []), i]);
  });
  const dues = new Map<number, number>();
  open.jobs.forEach((j) => {
    if (j.due >= 0) dues.set(j.due, (dues.get(j.due) ?? 0) + 1);
  });
  return (
    <div className="card-paper overflow-x-auto">
      <table className="w-full text-left table-fixed min-w-[720px]">
        <caption className="sr-only">Four weeks of sessions</caption>
        <thead>
          <tr>
            {names.map((w) => (
              <th key={w} scope="col" className="px-2 py-1 text-sm">
                {w}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {Array.from({ length: weeks }, (_, w) => (
            <tr key={addDays(first, 7 * w - lead)} className="border-t border-base-300 align-top">
              {names.map((name, k) => {
                const d = 7 * w + k - lead;
                const on = addDays(first, d);
                if (d < 0 || d >= open.days) return <td key={name} className="bg-base-100" />;
                const concert = concerts.find((c) => c.on === on);
                const before = concerts.find((c) => c.on > on && addDays(on, c.settlingDays) >= c.on);
                const holiday = holidays.find((h) => h.from <= on && on <= h.to && h.placeId === null);
                const due = dues.get(d) ?? 0;
                return (
                  <td
                    key={name}
                    className={`px-1.5 py-1 h-20 ${concert ? 'border-l-4 border-accent' : before ? 'settling-band' : ''}`}
                  >
                    <p className="text-sm leading-tight flex justify-between gap-1">
                      <b>{d === 0 ? 'today' : sayDay(on, first)}</b>
                      {due > 0 && <span className="muted">{due} due</span>}
                    </p>
                    {concert && <p className="text-sm text-warning font-semibold leading-tight">{concert.name}</p>}
                    {before && <p className="text-sm leading-tight">settling</p>}
                    {holiday && <p className="text-sm muted leading-tight">{holiday.name}</p>}
                    {(byDay.get(d) ?? []).map((s) => {
                      const shift = open.shifts[s];
                      if (!shift) return null;
                      const there = inShift[s] ?? [];
                      const late = there.filter((i) => d > (open.jobs[i]?.due ?? 0)).length;
                      const full = shift.minutes > 0 ? Math.min(1, (used[s] ?? 0) / shift.minutes) : 0;
                      const who = people[shift.person];
                      return (
                        <button
                          key={s}
                          type="button"
                          onClick={() => chooseShift(s)}
                          className="block w-full text-left text-sm leading-tight mt-0.5"
                          title={`${who?.name} at ${places[shift.site]?.name}: ${used[s]} of ${count(shift.minutes, 'minute')}`}
                        >
                          <span className="flex justify-between gap-1">
                            <span className="truncate">
                              <b>{who?.initials}</b> {places[shift.site]?.name}
                            </span>
                            <span className={late > 0 ? 'text-error font-semibold' : 'muted'}>
                              {shift.minutes === 0 ? 'away' : there.length}
                              {late > 0 && <span className="sr-only"> tasks, {late} late</span>}
                            </span>
                          </span>
                          <span className="block h-1 bg-base-300 rounded" aria-hidden="true">
                            <span className="block h-1 rounded bg-primary" style={{ width: `${100 * full}%` }} />
                          </span>
                        </button>
                      );
                    })}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="muted text-sm px-2 py-1">Number: tasks in the session, red if any are late. Bar: how full it is.</p>
    </div>
  );
}
