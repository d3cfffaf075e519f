import { scaleLinear, scaleUtc } from 'd3-scale';
import { area, curveStepAfter, line } from 'd3-shape';
import { count } from '../../../core/count';
import type { Outlook } from '../../../core/stock/ahead';
import { CrossAxis, LeftAxis } from '../../ui/Axis';

const WIDTH = 640;
const HEIGHT = 230;
const EDGE = { left: 40, right: 96, top: 14, bottom: 30 };

/** What is left of a pack week by week, the range by chance, the reorder point, and what is under way. */
export function BurnDown(p: {
  outlook: Outlook;
  today: string;
  now: number;
  point: number;
  arrivals: readonly { on: string; packs: number }[];
  unit: string;
}) {
  const instant = (day: string) => Date.parse(`${day}T00:00:00Z`);
  const weeks = p.outlook.weeks;
  const end = instant(weeks.at(-1)?.endsOn ?? p.today);
  const start = instant(p.today);
  const points = [
    { at: start, left: p.now, low: p.now, high: p.now },
    ...weeks.map((w) => ({ at: instant(w.endsOn), left: w.left, low: w.low, high: w.high })),
  ];
  const top = Math.max(p.point + 1, ...points.map((w) => w.high), 2);
  const bottom = Math.min(0, ...points.map((w) => w.low));
  const x = scaleUtc([start, end], [EDGE.left, WIDTH - EDGE.right]);
  const y = scaleLinear([bottom, top], [HEIGHT - EDGE.bottom, EDGE.top]).nice(4);
  const path = line<(typeof points)[number]>()
    .x((d) => x(d.at))
    .y((d) => y(d.left))
    .curve(curveStepAfter)(points);
  const band = area<(typeof points)[number]>()
    .x((d) => x(d.at))
    .y0((d) => y(d.low))
    .y1((d) => y(d.high))
    .curve(curveStepAfter)(points);
  const month = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', timeZone: 'UTC' });
  const last = weeks.at(-1);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      className="w-full max-w-[760px]"
      aria-label={`${p.now} ${p.unit} now, ${last?.left ?? p.now} left after ${count(weeks.length, 'week')}, likely between ${last?.low} and ${last?.high}. Order at ${p.point}.`}
    >
      <LeftAxis
        scale={y}
        ticks={4}
        say={(t) => (Number.isInteger(t) ? String(t) : '')}
        from={EDGE.left}
        to={WIDTH - EDGE.right}
      />
      <path d={`M${EDGE.left} ${y(0)}H${WIDTH - EDGE.right}`} className="stroke-base-content" />
      <CrossAxis scale={x} ticks={6} say={(t) => month.format(t)} at={HEIGHT - 10} />
      <path d={band ?? ''} className="fill-primary" opacity={0.16} />
      <path d={path ?? ''} fill="none" className="stroke-primary" strokeWidth={2.5} />
      <path
        d={`M${EDGE.left} ${y(p.point)}H${WIDTH - EDGE.right}`}
        className="stroke-accent"
        strokeDasharray="6 4"
        strokeWidth={1.5}
      />
      <text x={WIDTH - EDGE.right + 6} y={y(p.point) + 4} className="fill-current text-[12px]">
        order at {p.point}
      </text>
      {p.outlook.runsOutOn && (
        <g>
          <path
            d={`M${x(instant(p.outlook.runsOutOn))} ${EDGE.top}V${HEIGHT - EDGE.bottom}`}
            className="stroke-error"
            strokeWidth={1.5}
          />
          <text x={x(instant(p.outlook.runsOutOn)) + 5} y={EDGE.top + 10} className="fill-error text-[12px]">
            short {month.format(instant(p.outlook.runsOutOn))}
          </text>
        </g>
      )}
      {p.arrivals
        .filter((a) => instant(a.on) <= end)
        .map((a) => (
          <g key={`${a.on}/${a.packs}`}>
            <path
              d={`M${x(instant(a.on))} ${HEIGHT - EDGE.bottom}v-16m-5 6l5 -6l5 6`}
              fill="none"
              className="stroke-current"
              strokeWidth={1.5}
            />
            <text
              x={x(instant(a.on))}
              y={HEIGHT - EDGE.bottom - 20}
              textAnchor="middle"
              className="fill-current text-[12px]"
            >
              +{a.packs}
            </text>
          </g>
        ))}
    </svg>
  );
}
