import { sayWinds } from '../../../core/count';
import type { Rotation } from '../../../core/winding/post';
import { type HalfTurn, type Spot, windPaths } from './windPaths';

export interface PostDrawingProps {
  kind: 'post' | 'roller' | 'peg';
  turns: number;
  gaugeMm: number;
  diameterMm: number;
  /** Turns that go above the string's tail. */
  over: 0 | 1 | 2;
  /** The end is folded back under the string. */
  selfLock: boolean;
  /** The post itself holds the string. */
  locking: boolean;
  /** The end goes down the middle of the post. */
  slotted: boolean;
  rotation: Rotation;
  stackMm: number;
  roomMm: number;
  /** Turns away from the wall before the string crosses over, on a double bass. */
  away?: number;
}

const WIDTH = 300;

/**
 * A post, roller or peg with this string's predicted winds to scale: the helix, its tail clearly over or under, the
 * side it leaves on, which way to turn, and the stack against the room there is.
 */
export function PostDrawing(p: PostDrawingProps) {
  const upright = p.kind === 'post' || (p.kind === 'peg' && p.rotation !== 'over-the-top');
  const leaves = p.rotation === 'clockwise' ? -1 : 1;
  const scale = 11;
  const radius = Math.max(20, Math.min(upright ? 58 : 46, (p.diameterMm * scale) / 2));
  // Thin strings would vanish at scale, so the line keeps a least weight.
  const weight = Math.max(6, Math.min(upright ? 13 : 11, p.gaugeMm * scale));
  const holeV = (p.away ? 96 : p.over === 0 ? 34 : p.over === 1 ? 52 : 64) + weight;
  const turns = p.locking ? Math.min(0.9, p.turns) : Math.min(7, p.turns);
  const paths = windPaths({
    turns,
    over: p.locking ? 0 : p.over,
    away: p.away ?? 0,
    leaves,
    radius: radius + weight / 2,
    holeV,
    weight,
  });
  const foot = Math.max(150, paths.endsAt + 34);
  const label = `${p.kind === 'post' ? 'Post' : p.kind === 'roller' ? 'Roller' : 'Peg'} with about ${sayWinds(p.turns)}${
    p.locking
      ? ', held by the lock'
      : p.over
        ? `, the first ${p.over === 2 ? 'two ' : ''}over the string end`
        : ', each below the last'
  }${p.selfLock ? ', self-locked' : ''}; ${upright ? `the string leaves on the ${leaves === 1 ? 'right' : 'left'}, the inside` : 'the string runs over the top'}. The winds fill ${p.stackMm.toFixed(1)} of ${p.roomMm} mm.`;
  // Upright: v runs down. Lying: v runs to the right, seen from above the pegbox, the nut below.
  const height = upright ? foot + 64 : 250;
  const place = (s: Spot): [number, number] => (upright ? [WIDTH / 2 + s.u, 36 + s.v] : [34 + s.v, 110 - s.u]);
  const at = (s: Spot) =>
    place(s)
      .map((n) => n.toFixed(1))
      .join(' ');
  const curve = (h: HalfTurn) => `M${at(h.from)}Q${at(h.bend)} ${at(h.to)}`;
  const line = { fill: 'none', className: 'stroke-accent', strokeLinecap: 'round' as const };
  const ownEnd: Spot = { u: -leaves * (radius + 34), v: holeV };
  const [endX, endY] = place(ownEnd);
  const [holeX, holeY] = place({ u: 0, v: holeV });
  const [leaveX, leaveY] = place(paths.leavesAt);
  const bodyLength = foot;
  return (
    <svg viewBox={`0 0 ${WIDTH} ${height}`} role="img" aria-label={label} className="w-full max-w-[330px]">
      {upright ? (
        <ellipse cx={WIDTH / 2} cy={36 + foot} rx={radius + 46} ry={12} className="fill-base-300" />
      ) : (
        <path d="M18 20h14v180h-14zM268 20h14v180h-14z" className="fill-base-300" />
      )}
      {paths.back.map((h) => (
        <path key={curve(h)} d={curve(h)} {...line} strokeOpacity={0.35} strokeWidth={weight * 0.8} />
      ))}
      {upright ? (
        <>
          <path
            d={`M${WIDTH / 2 - radius} 36V${36 + bodyLength}a${radius} 9 0 0 0 ${radius * 2} 0V36a${radius} 9 0 0 0 ${-radius * 2} 0`}
            className="fill-base-200 stroke-base-content"
            strokeWidth={2}
          />
          <ellipse
            cx={WIDTH / 2}
            cy={36}
            rx={radius}
            ry={9}
            className="fill-base-200 stroke-base-content"
            strokeWidth={2}
          />
          {p.locking && (
            <path
              d={`M${WIDTH / 2 - radius * 0.6} 36h${radius * 1.2}`}
              className="stroke-base-content"
              strokeWidth={3}
            />
          )}
        </>
      ) : (
        <path
          d={`M18 ${110 - radius}H282a9 ${radius} 0 0 1 0 ${radius * 2}H18a9 ${radius} 0 0 1 0 ${-radius * 2}`}
          className="fill-base-200 stroke-base-content"
          strokeWidth={2}
        />
      )}
      {p.slotted ? (
        <path
          d={`M${holeX} ${holeY}V${36 + bodyLength - 20}`}
          {...line}
          strokeWidth={weight * 0.7}
          strokeDasharray="3 7"
        />
      ) : (
        <path
          d={`M${holeX} ${holeY}L${endX} ${endY}${p.selfLock ? `q${upright ? `${-leaves * 16} ${weight * 2} ${leaves * 24} ${weight * 2.4}` : `${weight * 2} 16 ${weight * 2.4} -24`}` : upright ? `l${-leaves * 14} -22` : 'l-14 -16'}`}
          {...line}
          strokeWidth={weight * 0.8}
        />
      )}
      <ellipse
        cx={holeX}
        cy={holeY}
        rx={upright ? radius * 0.36 : weight * 0.7}
        ry={upright ? weight * 0.75 : radius * 0.36}
        className="fill-base-content"
      />
      {!p.locking && paths.front.map((h) => <path key={curve(h)} d={curve(h)} {...line} strokeWidth={weight} />)}
      {p.locking ? (
        <path d={`M${holeX} ${holeY}L${WIDTH / 2 + leaves * 118} ${36 + foot - 34}`} {...line} strokeWidth={weight} />
      ) : (
        <path
          d={
            upright
              ? `M${leaveX.toFixed(1)} ${leaveY.toFixed(1)}q${leaves * 4} 22 ${leaves * (96 - radius / 2)} ${(36 + foot - leaveY - 18).toFixed(1)}`
              : `M${leaveX.toFixed(1)} ${(110 + radius).toFixed(1)}V206`
          }
          {...line}
          strokeWidth={weight}
        />
      )}
      <g className="fill-current text-[16px]">
        {!p.slotted && !p.locking && (
          <text x={upright ? endX - leaves * 12 : endX} y={upright ? endY - 28 : endY + 30} textAnchor="middle">
            {p.selfLock ? 'locked under' : 'tail'}
          </text>
        )}
        {p.slotted && (
          <text
            x={WIDTH / 2 - leaves * (radius + 12)}
            y={36 + bodyLength - 40}
            textAnchor={leaves === 1 ? 'end' : 'start'}
          >
            end inside
          </text>
        )}
        <text
          x={upright ? WIDTH / 2 + leaves * 104 : leaveX < holeX ? leaveX - 12 : leaveX + 12}
          y={upright ? 36 + foot - (p.locking ? 92 : 62) : 196}
          textAnchor={upright ? 'middle' : leaveX < holeX ? 'end' : 'start'}
        >
          to the nut
        </text>
        <text x={WIDTH / 2} y={height - 6} textAnchor="middle">
          {p.stackMm.toFixed(1)} of {p.roomMm} mm used
        </text>
        {p.rotation === 'over-the-top' ? (
          <text x={WIDTH / 2} y={30} textAnchor="middle">
            over the top
          </text>
        ) : (
          <>
            <path
              d={
                p.rotation === 'clockwise'
                  ? `M${WIDTH / 2 - 26} 22a30 10 0 0 1 52 0`
                  : `M${WIDTH / 2 + 26} 22a30 10 0 0 0 -52 0`
              }
              fill="none"
              className="stroke-current"
              strokeWidth={2}
            />
            <path
              d={
                p.rotation === 'clockwise' ? `M${WIDTH / 2 + 32} 26l-12 -1l7 -9z` : `M${WIDTH / 2 - 32} 26l12 -1l-7 -9z`
              }
            />
          </>
        )}
      </g>
    </svg>
  );
}
