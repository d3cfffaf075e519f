export interface PostPaths {
  /** The half turns in front of the post, first wound first, as path data. */
  front: string[];
  /** The half turns behind it. */
  back: string[];
  /** Where the string leaves towards the nut. */
  leavesAt: { x: number; y: number };
}

/** A part of a turn shows as a coil once it is more than this. */
const SHOWS_FROM = 0.25;

/**
 * The helix of a string on a post, seen from the side: from the hole at `holeY`, the first turn above its own end if
 * `oneOver`, the others one below the other, leaving on the right (`leavesRight`) or the left.
 * @param p.turns predicted turns; whole coils are drawn, at least one
 */
export function postPaths(p: {
  turns: number;
  oneOver: boolean;
  leavesRight: boolean;
  centreX: number;
  radius: number;
  holeY: number;
  weight: number;
}): PostPaths {
  const coils = Math.max(1, Math.ceil(p.turns - SHOWS_FROM));
  const pitch = p.weight * 1.3;
  const side = p.leavesRight ? 1 : -1;
  const inside = p.centreX + side * p.radius;
  const outside = p.centreX - side * p.radius;
  const sag = p.weight * 0.7;
  // Height at which a coil comes round to the front; half a pitch lower it goes behind.
  const startY = (coil: number): number => {
    if (!p.oneOver) return p.holeY + pitch * (0.8 + coil);
    return coil === 0 ? p.holeY - pitch * 1.35 : p.holeY + pitch * (0.8 + coil - 1);
  };
  const half = (fromX: number, fromY: number, toX: number, toY: number, bulge: number) =>
    `M${fromX.toFixed(1)} ${fromY.toFixed(1)}Q${p.centreX.toFixed(1)} ${((fromY + toY) / 2 + bulge).toFixed(1)} ${toX.toFixed(1)} ${toY.toFixed(1)}`;
  const front: string[] = [];
  const back: string[] = [];
  for (let coil = 0; coil < coils; coil++) {
    const y = startY(coil);
    front.push(half(outside, y, inside, y + pitch / 2, sag));
    if (coil + 1 < coils) back.push(half(inside, y + pitch / 2, outside, startY(coil + 1), -sag));
  }
  return { front, back, leavesAt: { x: inside, y: startY(coils - 1) + pitch / 2 } };
}
