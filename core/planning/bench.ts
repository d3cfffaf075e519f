/** Somebody's time at a place, in minutes of any one clock. */
export interface AtBench {
  place: number;
  from: number;
  until: number;
}

/**
 * What each of those who work at a place has of its bench: where they are there together they share it. With room for
 * fewer instruments than there are people, each works for their share of that time; with room for more, each has an
 * even part of it.
 *
 * @param space instruments that lie on a place's bench together; undefined: any number
 * @returns for each the whole minutes they can work, and how many instruments they may have on the bench at once
 */
export function benchShares(
  there: readonly AtBench[],
  space: (place: number) => number | undefined,
): { minutes: number; space: number | undefined }[] {
  const byPlace = new Map<number, AtBench[]>();
  for (const a of there) {
    const own = byPlace.get(a.place);
    if (own) own.push(a);
    else byPlace.set(a.place, [a]);
  }
  return there.map((own) => {
    const room = space(own.place);
    if (room === undefined) return { minutes: own.until - own.from, space: undefined };
    const others = (byPlace.get(own.place) ?? []).filter((o) => o.from < own.until && own.from < o.until);
    // Between these moments nobody comes or goes.
    const moments = [...new Set(others.flatMap((o) => [o.from, o.until]))]
      .filter((m) => m > own.from && m < own.until)
      .concat(own.from, own.until)
      .sort((a, b) => a - b);
    let minutes = 0;
    let most = 1;
    for (let k = 0; k + 1 < moments.length; k++) {
      const [from, until] = [moments[k] as number, moments[k + 1] as number];
      const people = others.filter((o) => o.from <= from && until <= o.until).length;
      minutes += (until - from) * Math.min(1, room / people);
      most = Math.max(most, people);
    }
    return { minutes: Math.floor(minutes + 1e-9), space: Math.max(1, Math.floor(room / most)) };
  });
}
