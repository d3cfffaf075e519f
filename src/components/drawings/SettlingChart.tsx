import { scaleLinear } from 'd3-scale';
import { line } from 'd3-shape';
import { type Creep, driftCents, type Retune } from '../../../core/settling/creep';
import { CrossAxis, LeftAxis } from '../../ui/Axis';

const WIDTH = 560;
const HEIGHT = 190;
const EDGE = { left: 46, right: 14, top: 12, bottom: 34 };

/** How far a new string falls if nobody retunes it, the retunes that were logged, and when it is ready. */
export function SettlingChart({
  creep,
  retunes,
  readyDays,
  nowDays,
}: {
  creep: Creep;
  retunes: readonly Retune[];
  readyDays: { early: number; middle: number; late: number };
  nowDays: number;
}) {
  const end = Math.max(1.5, readyDays.late * 1.25, nowDays * 1.1, ...retunes.map((r) => r.atDays * 1.1));
  let sum = 0;
  const points = retunes.map((r) => {
    sum += r.flatCents;
    return { day: r.atDays, flat: sum };
  });
  const deepest = Math.max(20, driftCents(creep, end), ...points.map((p) => p.flat)) * 1.1;
  const x = scaleLinear([0, end], [EDGE.left, WIDTH - EDGE.right]);
  const y = scaleLinear([0, deepest], [EDGE.top, HEIGHT - EDGE.bottom]);
  const days = Array.from({ length: 60 }, (_, i) => end * (i / 59) ** 2);
  const path = line<number>()
    .x((d) => x(d))
    .y((d) => y(driftCents(creep, d)))(days);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={`Settling: about ${driftCents(creep, 1).toFixed(0)} cents flat in the first day; ready in about ${readyDays.middle.toFixed(1)} days, likely between ${readyDays.early.toFixed(1)} and ${readyDays.late.toFixed(1)}. Retunes logged: ${points.length}.`}
      className="w-full max-w-[640px]"
    >
      <rect
        x={x(readyDays.early)}
        y={EDGE.top}
        width={Math.max(2, x(Math.min(end, readyDays.late)) - x(readyDays.early))}
        height={HEIGHT - EDGE.top - EDGE.bottom}
        className="fill-primary"
        opacity={0.14}
      />
      <path
        d={`M${x(readyDays.middle)} ${EDGE.top}V${HEIGHT - EDGE.bottom}`}
        className="stroke-primary"
        strokeWidth={2}
      />
      <text x={x(readyDays.middle) + 5} y={HEIGHT - EDGE.bottom - 6} className="fill-primary text-[12px]">
        ready
      </text>
      <LeftAxis scale={y} ticks={4} say={(t) => (t === 0 ? '0' : `−${t}`)} from={EDGE.left} to={WIDTH - EDGE.right} />
      <CrossAxis scale={x} ticks={6} say={(t) => (t === 0 ? 'on' : `${t} d`)} at={HEIGHT - 14} />
      <path d={path ?? ''} fill="none" className="stroke-info" strokeWidth={2.5} />
      {nowDays < end && (
        <path
          d={`M${x(nowDays)} ${EDGE.top}V${HEIGHT - EDGE.bottom}`}
          className="stroke-base-content"
          strokeDasharray="2 4"
        />
      )}
      {points.map((p) => (
        <circle
          key={p.day}
          cx={x(p.day)}
          cy={y(p.flat)}
          r={5}
          className="fill-base-200 stroke-base-content"
          strokeWidth={2}
        />
      ))}
    </svg>
  );
}
