/** When an instrument is taken, in minutes from the beginning of the first day looked at. */
export interface Taken {
  from: number;
  until: number;
  /** Somebody plays it then, and wants it in tune. */
  lesson: boolean;
  why: string;
}

/** A shift at the instrument's place. */
export interface ShiftThere {
  /** Its place in the list of all shifts. */
  shift: number;
  /** When it begins, in minutes from the beginning of the first day looked at. */
  at: number;
  minutes: number;
  /** Minutes in one piece that the work takes whoever has the shift. */
  needs: number;
}

const DAY = 24 * 60;
/** Between new strings and a lesson: time for the first retune, else at least not on the same day. */
const RESTS: readonly ((ready: number) => number)[] = [(ready) => ready + DAY, (ready) => Math.ceil(ready / DAY) * DAY];
/** A lesson with new strings is put up with before the work has to wait longer than this for a better day. */
const LONGEST_WAIT = 7 * DAY;

/**
 * Shifts in which an instrument cannot be worked on: what is left of them beside its lessons and loans has no piece as
 * long as the work; or, where the work makes it unready, its next lesson comes right after. The rest before a lesson
 * gives way where no shift by the due day, or within a week of the first that there is, would keep it.
 *
 * @param taken in any order; they may overlap
 * @param unready when the work leaves it out of tune for a while: the day by which it is due, in minutes; else null
 * @returns the shifts, by their place in the list, with why
 */
export function closedShifts(
  taken: readonly Taken[],
  shifts: readonly ShiftThere[],
  unready: { due: number } | null,
): { shift: number; why: string }[] {
  if (taken.length === 0) return [];
  const closed: { shift: number; why: string }[] = [];
  const open: { shift: number; at: number; ready: number }[] = [];
  const inOrder = [...taken].sort((a, b) => a.from - b.from);
  for (const s of shifts) {
    const ready = firstReady(inOrder, s);
    if (ready !== null) open.push({ shift: s.shift, at: s.at, ready });
    else {
      const over = inOrder.filter((t) => t.from < s.at + s.minutes && t.until > s.at);
      closed.push({ shift: s.shift, why: [...new Set(over.map((t) => t.why))].join(', ') });
    }
  }
  if (!unready || open.length === 0) return closed;
  const lessons = inOrder.filter((t) => t.lesson);
  const wait = Math.max(unready.due + DAY, Math.min(...open.map((o) => o.at)) + LONGEST_WAIT);
  for (const rest of RESTS) {
    const after = open.map(({ ready }) => lessons.find((l) => l.from >= ready && l.from < rest(ready)));
    if (!open.some((o, n) => !after[n] && o.at < wait)) continue;
    open.forEach((o, n) => {
      const lesson = after[n];
      if (lesson) closed.push({ shift: o.shift, why: `new strings right before ${lesson.why}` });
    });
    break;
  }
  return closed.sort((a, b) => a.shift - b.shift);
}

/** When work in a shift is done at the earliest, beside what takes the instrument; null where no piece is long enough. */
function firstReady(taken: readonly Taken[], s: ShiftThere): number | null {
  let from = s.at;
  for (const t of taken) {
    if (t.until <= from) continue;
    if (t.from - from >= s.needs) break;
    from = t.until;
  }
  return from + s.needs <= s.at + s.minutes ? from + s.needs : null;
}

/** Shifts of one place, by their place in the list, in which nobody else is there at any time to lend a hand. */
export function nobodyBeside(
  shifts: readonly { shift: number; person: number; at: number; minutes: number }[],
): Set<number> {
  const beside = (a: (typeof shifts)[number]) =>
    shifts.some((b) => b.person !== a.person && b.at < a.at + a.minutes && a.at < b.at + b.minutes);
  return new Set(shifts.filter((s) => !beside(s)).map((s) => s.shift));
}
