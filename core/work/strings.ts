import type { Due, StringOn } from '../wear/due';

/**
 * The strings that a change of a due instrument is of, highest number first: those that broke or are off, by what is on
 * the instrument and by what was reported of it; all, where that names none.
 */
export function stringsToChange(p: {
  due: Pick<Due, 'by' | 'numbers'>;
  strings: readonly Pick<StringOn, 'number' | 'state'>[];
}): number[] {
  const all = p.strings.map((s) => s.number).sort((a, b) => b - a);
  if (p.due.by !== 'broken') return all;
  const reported = new Set(p.due.numbers);
  const gone = new Set(p.strings.filter((s) => s.state !== 'on').map((s) => s.number));
  const named = all.filter((n) => reported.has(n) || gone.has(n));
  return named.length > 0 ? named : all;
}
