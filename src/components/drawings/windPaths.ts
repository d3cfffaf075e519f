/** A point on the drawing: `u` across the post, `v` along it away from the hole's end. */
export interface Spot {
  u: number;
  v: number;
}
/** A half turn: from one edge of the post round to the other, with the point that bends it. */
export interface HalfTurn {
  from: Spot;
  bend: Spot;
  to: Spot;
}

export interface WindPaths {
  /** The half turns in front of the post, first wound first. */
  front: HalfTurn[];
  /** The half turns behind it. */
  back: HalfTurn[];
  /** Where the string leaves towards the nut. */
  leavesAt: Spot;
  /** The last coil's far edge along the post. */
  endsAt: number;
}

/** A part of a turn shows as a coil once it is more than this. */
const SHOWS_FROM = 0.25;

/**
 * The helix of a string on a post, as seen from the side: from the hole at `holeV`, so many first turns before the
 * string's own end (`over`), the others one after the other away from it, leaving on the side `leaves`.
 * @param p.turns predicted turns; whole coils are drawn, at least one
 * @param p.radius from the middle of the post to the middle of the string
 */
export function windPaths(p: {
  turns: number;
  over: 0 | 1 | 2;
  /** Turns away from the wall before the string crosses back over them; 0: it does not cross. */
  away?: number;
  leaves: 1 | -1;
  radius: number;
  holeV: number;
  weight: number;
}): WindPaths {
  const coils = Math.max(1, Math.ceil(p.turns - SHOWS_FROM));
  const over = Math.min(p.over, coils);
  const pitch = p.weight * 1.25;
  const inside = p.leaves * p.radius;
  const outside = -inside;
  const sag = p.weight * 0.7;
  // Where a coil comes round to the front; half a pitch further it goes behind.
  const away = p.away ?? 0;
  const crosses = away > 0 && coils > away;
  const startV = (coil: number): number =>
    crosses
      ? coil < away
        ? p.holeV + pitch * (0.8 + coil)
        : p.holeV - pitch * (1.5 + coil - away)
      : coil < over
        ? p.holeV - pitch * (1.3 + (over - 1 - coil))
        : p.holeV + pitch * (0.8 + coil - over);
  const half = (fromU: number, fromV: number, toU: number, toV: number, bulge: number): HalfTurn => ({
    from: { u: fromU, v: fromV },
    bend: { u: 0, v: (fromV + toV) / 2 + bulge },
    to: { u: toU, v: toV },
  });
  const front: HalfTurn[] = [];
  const back: HalfTurn[] = [];
  for (let coil = 0; coil < coils; coil++) {
    const v = startV(coil);
    front.push(half(outside, v, inside, v + pitch / 2, sag));
    // Where it crosses it is seen lying over the turns before.
    const on = crosses && coil === away - 1 ? front : back;
    if (coil + 1 < coils) on.push(half(inside, v + pitch / 2, outside, startV(coil + 1), -sag));
  }
  const leavesAt = { u: inside, v: startV(coils - 1) + pitch / 2 };
  const furthest = Math.max(...Array.from({ length: coils }, (_, coil) => startV(coil) + pitch / 2));
  return { front, back, leavesAt, endsAt: furthest + p.weight / 2 };
}
