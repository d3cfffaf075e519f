import type { House } from './houseMethod';
import type { Method } from './types';

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/**
 * Puts somebody's changes to a house method on top of what somebody else saved meanwhile: what I changed is mine, all
 * else is theirs.
 *
 * @param base what both began with
 * @example `mergeHouse(base, { ...base, steps: [] }, theirs)` is theirs without the steps that `base` had
 */
export function mergeHouse(base: House, mine: House, theirs: House): House {
  const method = Object.fromEntries(
    [...new Set([...Object.keys(theirs.method), ...Object.keys(mine.method)])].map((name) => {
      const key = name as keyof Method;
      return [key, same(mine.method[key], base.method[key]) ? theirs.method[key] : mine.method[key]];
    }),
  ) as unknown as Method;
  const wording: House['wording'] = {};
  for (const id of new Set([...Object.keys(theirs.wording), ...Object.keys(mine.wording)])) {
    const words = same(mine.wording[id], base.wording[id]) ? theirs.wording[id] : mine.wording[id];
    if (words) wording[id] = words;
  }
  const stepIn = (house: House, id: string) => house.steps.find((s) => s.id === id);
  const steps = theirs.steps.flatMap((step) => {
    const [before, now] = [stepIn(base, step.id), stepIn(mine, step.id)];
    if (same(before, now)) return [step];
    return now ? [now] : [];
  });
  const changed = mine.steps.filter((s) => !stepIn(theirs, s.id) && !same(s, stepIn(base, s.id)));
  return { method, wording, steps: [...steps, ...changed] };
}
