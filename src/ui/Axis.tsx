/** A scale of a chart, as d3 makes them. */
interface Scale<T extends number | Date> {
  (value: T): number;
  ticks: (count?: number) => T[];
}

interface Axis<T extends number | Date> {
  scale: Scale<T>;
  ticks: number;
  say: (tick: T) => string;
}

const TEXT = 'fill-current text-[12px]';

/** Ticks to the left of a chart, each with a line across it. `from` and `to` are where the chart begins and ends. */
export function LeftAxis({ scale, ticks, say, from, to }: Axis<number> & { from: number; to: number }) {
  return scale.ticks(ticks).map((t) => (
    <g key={t}>
      <path d={`M${from} ${scale(t)}H${to}`} className="stroke-base-300" />
      <text x={from - 6} y={scale(t) + 4} textAnchor="end" className={TEXT}>
        {say(t)}
      </text>
    </g>
  ));
}

/** Ticks below a chart, or above it; with a line through it where `through` says from where to where. */
export function CrossAxis<T extends number | Date>({
  scale,
  ticks,
  say,
  at,
  through,
}: Axis<T> & { at: number; through?: readonly [number, number] }) {
  return scale.ticks(ticks).map((t) => (
    <g key={Number(t)}>
      {through && <path d={`M${scale(t)} ${through[0]}V${through[1]}`} className="stroke-base-300" />}
      <text x={scale(t)} y={at} textAnchor="middle" className={TEXT}>
        {say(t)}
      </text>
    </g>
  ));
}
