export interface PostPaths {
  /** The parts of the string in front of the post, as path data. */
  front: string[];
  back: string[];
  /** Where the string leaves towards the nut. */
  leavesAt: { x: number; y: number };
}

/**
 * The helix of a string on a post, seen from the side: from the hole at `holeY`, the first turn above its own end if
 * `oneOver`, the others one below the other, leaving on the right (`leavesRight`) or the left.
 * @param p.turns predicted turns; at least half a turn is drawn
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
  const turns = Math.max(0.5, p.turns);
  const pitch = p.weight * 1.25;
  const sign = p.leavesRight ? 1 : -1;
  // Angle 0 is the edge where the string leaves; going back from there, half of each turn is in front.
  const yAt = (turnsFromHole: number): number => {
    if (!p.oneOver) return p.holeY + pitch * (0.9 + turnsFromHole);
    if (turnsFromHole < 1)
      return (
        p.holeY -
        pitch * (1.1 - 0.25 * turnsFromHole) +
        (turnsFromHole > 0.75 ? (turnsFromHole - 0.75) * 4 * pitch * 1.9 : 0)
      );
    return p.holeY + pitch * (0.05 + turnsFromHole);
  };
  const steps = Math.ceil(turns * 48);
  const front: string[] = [];
  const back: string[] = [];
  let path = '';
  let inFront: boolean | null = null;
  let leavesAt = { x: p.centreX, y: p.holeY };
  for (let i = 0; i <= steps; i++) {
    const done = (i / steps) * turns;
    // The end leaves tangentially at the edge, so the phase is counted from there.
    const angle = (turns - done) * 2 * Math.PI;
    const x = p.centreX + sign * p.radius * Math.cos(angle);
    const y = yAt(done);
    // Just before the edge decides, so that the two ends do not count as a piece of their own.
    const isFront: boolean = i === steps ? (inFront ?? true) : Math.sin(angle - 1e-6) > 0;
    const point = `${x.toFixed(1)} ${(y + (isFront ? 1 : -1) * Math.abs(Math.sin(angle)) * p.weight * 0.5).toFixed(1)}`;
    if (isFront !== inFront) {
      if (path) (inFront ? front : back).push(`${path}L${point}`);
      path = `M${point}`;
      inFront = isFront;
    } else path += `L${point}`;
    if (i === steps) leavesAt = { x, y };
  }
  (inFront ? front : back).push(path);
  return { front, back, leavesAt };
}
