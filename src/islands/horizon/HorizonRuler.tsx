import { type KeyboardEvent, type PointerEvent, useRef, useState } from 'react';
import { addDays, daysBetween, type LocalDate, sayDay, sayWeekday } from '../../../core/dates';
import type { HorizonData } from '../../../server/fleet/list';
import { newKey } from '../../ui/key';
import { post } from '../../ui/post';

/** Ticks drawn at most in one week; more are said in words. */
const MOST_TICKS = 12;

/**
 * Time as a fingerboard: the nut is today, a fret a week, ticks are what falls due, dots are concerts. The marker says
 * by when; it is dragged, moved by the arrow keys, or typed.
 */
export function HorizonRuler({ today, horizon: initial, weeks, due, concerts }: HorizonData) {
  const [horizon, setHorizon] = useState(initial);
  const [typing, setTyping] = useState(false);
  const [failed, setFailed] = useState(false);
  const board = useRef<HTMLDivElement>(null);
  const saved = useRef(initial);
  const days = weeks * 7;
  /** Where a day lies on the board, in hundredths of its width. */
  const x = (day: LocalDate) => (100 * Math.min(days, Math.max(0, daysBetween(today, day)))) / days;
  const dueBy = due.filter((d) => d.on <= horizon).reduce((sum, d) => sum + d.count, 0);

  const show = (day: LocalDate) => {
    const within = day < today ? today : day > addDays(today, days) ? addDays(today, days) : day;
    setHorizon(within);
    // For islands that wake up later than this one.
    document.documentElement.dataset.horizon = within;
    window.dispatchEvent(new CustomEvent('arvick:horizon', { detail: within }));
    return within;
  };
  const keep = async (day: LocalDate) => {
    if (day === saved.current) return;
    const answer = await post('/api/people/horizon', { horizonOn: day }, newKey());
    setFailed(!answer.ok);
    if (!answer.ok) return;
    saved.current = day;
    window.dispatchEvent(new CustomEvent('arvick:horizon-saved', { detail: day }));
  };
  const dayAt = (clientX: number): LocalDate => {
    const box = board.current?.getBoundingClientRect();
    return box ? addDays(today, Math.round(((clientX - box.left) / box.width) * days)) : horizon;
  };
  const onPointerDown = (event: PointerEvent<HTMLDivElement>) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    show(dayAt(event.clientX));
  };
  const onPointerMove = (event: PointerEvent<HTMLDivElement>) => {
    if (event.currentTarget.hasPointerCapture(event.pointerId)) show(dayAt(event.clientX));
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const step = {
      ArrowRight: 1,
      ArrowUp: 1,
      ArrowLeft: -1,
      ArrowDown: -1,
      PageUp: 7,
      PageDown: -7,
      Home: -days,
      End: days,
    }[event.key];
    if (!step) return;
    event.preventDefault();
    show(addDays(horizon, step));
  };

  const weekStarts = Array.from({ length: weeks }, (_, i) => addDays(today, i * 7));
  const counts = weekStarts.map(() => 0);
  for (const d of due) {
    const week = Math.min(weeks - 1, Math.floor(daysBetween(today, d.on) / 7));
    counts[week] = (counts[week] ?? 0) + d.count;
  }
  const most = Math.max(1, ...counts);
  const perTick = Math.max(1, Math.ceil(most / MOST_TICKS));

  return (
    <section aria-label="Look ahead to" className="mt-4 mb-1 select-none">
      <div className="relative h-4 text-xs font-semibold" aria-hidden="true">
        {concerts.map((c) => {
          const left = x(c.on);
          return (
            <span
              key={c.name + c.on}
              className="absolute whitespace-nowrap hidden sm:block"
              style={left > 75 ? { right: `${100 - left}%` } : { left: `${left}%` }}
            >
              {c.name}, {sayDay(c.on, today)}
            </span>
          );
        })}
      </div>
      <div
        ref={board}
        className="relative h-6 bg-base-200 border border-base-300 cursor-pointer touch-none"
        onPointerDown={onPointerDown}
        onPointerMove={onPointerMove}
        onPointerUp={() => void keep(horizon)}
      >
        <div className="absolute -left-1.5 -top-1 -bottom-1 w-1.5 bg-base-content" />
        <div className="absolute inset-y-0 left-0 bg-primary/15" style={{ width: `${x(horizon)}%` }} />
        {weekStarts.slice(1).map((start) => (
          <div key={start} className="absolute inset-y-0 w-px bg-base-300" style={{ left: `${x(start)}%` }} />
        ))}
        {weekStarts.map((start, week) => {
          const count = counts[week] ?? 0;
          const ticks = Math.ceil(count / perTick);
          return (
            <div
              key={start}
              className="absolute inset-y-0 flex items-center gap-[2px] pl-1.5"
              style={{ left: `${x(start)}%` }}
              title={`${count} due in the week from ${sayDay(start, today)}`}
            >
              {Array.from({ length: ticks }, (_, i) => (
                <span
                  // biome-ignore lint/suspicious/noArrayIndexKey: ticks are alike and never reordered
                  key={i}
                  className={`w-[3px] h-2 ${i >= 5 ? 'max-md:hidden' : ''} ${start <= horizon ? 'bg-primary' : 'bg-secondary/60'}`}
                />
              ))}
            </div>
          );
        })}
        {concerts.map((c) => (
          <span
            key={c.name + c.on}
            className="absolute top-0.5 -translate-x-1/2 flex gap-[3px]"
            style={{ left: `${x(c.on)}%` }}
            title={`${c.name}, ${sayWeekday(c.on)}`}
          >
            <i className="size-2 rounded-full bg-accent block" />
            <i className="size-2 rounded-full bg-accent block" />
          </span>
        ))}
        <div
          className="absolute -top-1.5 -bottom-1.5 w-[3px] -translate-x-1/2 bg-primary"
          style={{ left: `${x(horizon)}%` }}
        />
      </div>
      <div className="relative h-8 text-xs muted">
        {weekStarts.map((start, i) => (
          <span
            key={start}
            className={`absolute top-2 ${i % 2 ? 'hidden xl:block' : i % 4 ? 'hidden sm:block' : ''}`}
            style={{ left: `${x(start) + 0.5}%` }}
            aria-hidden="true"
          >
            {sayDay(start, today)}
          </span>
        ))}
        <div
          className="absolute top-0.5"
          style={
            x(horizon) > 88
              ? { right: `${Math.max(0, 100 - x(horizon) - 3)}%` }
              : x(horizon) < 8
                ? { left: 0 }
                : { left: `${x(horizon)}%`, transform: 'translateX(-50%)' }
          }
        >
          {typing ? (
            <input
              type="date"
              className="input input-sm w-40 text-base-content"
              aria-label="Look ahead to"
              defaultValue={horizon}
              min={today}
              max={addDays(today, days)}
              // biome-ignore lint/a11y/noAutofocus: opened by the person who wants to type here
              autoFocus
              onKeyDown={(event) => {
                if (event.key === 'Escape') setTyping(false);
                if (event.key === 'Enter') event.currentTarget.blur();
              }}
              onBlur={(event) => {
                setTyping(false);
                if (event.currentTarget.value) void keep(show(event.currentTarget.value));
              }}
            />
          ) : (
            <button
              type="button"
              role="slider"
              aria-label="Look ahead to"
              aria-valuemin={0}
              aria-valuemax={days}
              aria-valuenow={daysBetween(today, horizon)}
              aria-valuetext={`by ${sayWeekday(horizon)}, ${dueBy} due`}
              title="Drag the marker, use the arrow keys, or click to type a date"
              className="whitespace-nowrap rounded px-2 py-1 font-bold bg-primary text-primary-content cursor-pointer"
              onKeyDown={onKeyDown}
              onKeyUp={() => void keep(horizon)}
              onClick={() => setTyping(true)}
            >
              by {sayWeekday(horizon)}
            </button>
          )}
        </div>
      </div>
      {failed && (
        <p role="alert" className="text-error text-sm">
          The marker was not saved: no answer from the server. Move it again later.
        </p>
      )}
    </section>
  );
}
