import { scaleBand, scaleLinear } from 'd3-scale';
import { CrossAxis } from '../../ui/Axis';

export interface TensionBar {
  number: number;
  note: string;
  n: number | null;
  beforeN: number | null;
  /** Pull at which the string would break; null where it cannot be said. */
  breaksN: number | null;
  lit: boolean;
}

const WIDTH = 560;
const EDGE = { left: 62, right: 60, top: 20, bottom: 6 };

/** Pull by string, thickest at the top as on the strip: now as a bar, before as a tick, the breaking pull as a cross. */
export function TensionChart({ bars }: { bars: readonly TensionBar[] }) {
  const height = EDGE.top + EDGE.bottom + bars.length * (bars.length > 8 ? 24 : 34);
  const most = Math.max(10, ...bars.flatMap((b) => [b.n ?? 0, b.beforeN ?? 0]));
  const x = scaleLinear([0, most * 1.08], [EDGE.left, WIDTH - EDGE.right]).nice(5);
  const y = scaleBand(
    bars.map((b) => b.number),
    [EDGE.top, height - EDGE.bottom],
  ).padding(0.35);
  const says = bars.map(
    (b) =>
      `string ${b.number} ${b.note}: ${b.n === null ? 'none' : `${b.n.toFixed(0)} N`}${b.beforeN === null ? '' : `, before ${b.beforeN.toFixed(0)} N`}`,
  );
  const right = x.range()[1] as number;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${height}`}
      role="img"
      aria-label={`Tension by string. ${says.join('; ')}.`}
      className="w-full max-w-[680px]"
    >
      <CrossAxis
        scale={x}
        ticks={5}
        say={(t) => (t === 0 ? '0' : `${t} N`)}
        at={EDGE.top - 7}
        through={[EDGE.top, height - EDGE.bottom]}
      />
      {bars.map((b) => {
        const top = y(b.number) ?? 0;
        const middle = top + y.bandwidth() / 2;
        return (
          <g key={b.number}>
            <text
              x={EDGE.left - 8}
              y={middle + 4.5}
              textAnchor="end"
              className={`fill-current text-[13px] ${b.lit ? 'font-bold' : ''}`}
            >
              {b.number} {b.note}
            </text>
            {b.n !== null && (
              <>
                <rect
                  x={x(0)}
                  y={top}
                  width={x(b.n) - x(0)}
                  height={y.bandwidth()}
                  rx={2}
                  className={b.lit ? 'fill-accent' : 'fill-primary'}
                />
                <text x={x(b.n) + 6} y={middle + 4.5} className="fill-current text-[13px]">
                  {b.n.toFixed(0)}
                </text>
              </>
            )}
            {b.beforeN !== null && (
              <path
                d={`M${x(b.beforeN)} ${top - 4}V${top + y.bandwidth() + 4}`}
                className="stroke-base-content"
                strokeWidth={2.5}
              />
            )}
            {b.breaksN !== null && x(b.breaksN) < right + 40 && (
              <path
                d={`M${x(b.breaksN) - 4} ${middle - 4}l8 8m0 -8l-8 8`}
                className="stroke-error"
                strokeWidth={2}
                fill="none"
              />
            )}
          </g>
        );
      })}
    </svg>
  );
}
