/** Chance from a seed, so that the scenario is the same every time (mulberry32). */
export interface Chance {
  /** Uniform in [0, 1). */
  next(): number;
  between(low: number, high: number): number;
  whole(low: number, high: number): number;
  pick<T>(items: readonly T[]): T;
  true(probability: number): boolean;
}

export function chanceOf(seed: number): Chance {
  let state = seed >>> 0;
  const next = () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
  return {
    next,
    between: (low, high) => low + (high - low) * next(),
    whole: (low, high) => Math.floor(low + (high - low + 1) * next()),
    pick: (items) => items[Math.floor(next() * items.length)] as (typeof items)[number],
    true: (probability) => next() < probability,
  };
}
