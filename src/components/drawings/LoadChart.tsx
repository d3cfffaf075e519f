import { scaleLinear, scalePoint } from 'd3-scale';
import { curveStepAfter, line } from 'd3-shape';
import { type LoadStep, SAFE_SHARE } from '../../../core/load/during';
import { LeftAxis } from '../../ui/Axis';

export interface LoadLine {
  name: string;
  short: string;
  steps: readonly LoadStep[];
  lit: boolean;
  refused: boolean;
}

const WIDTH = 420;
const HEIGHT = 210;
const EDGE = { left: 44, right: 56, top: 14, bottom: 34 };

/** The share of the pull that stays on the instrument while strings are changed, one line for each way of working. */
export function LoadChart({ lines, floating }: { lines: readonly LoadLine[]; floating: boolean }) {
  const longest = Math.max(...lines.map((l) => l.steps.length));
  const x = scaleLinear([0, longest - 1], [EDGE.left, WIDTH - EDGE.right]);
  const y = scaleLinear([0, 1], [HEIGHT - EDGE.bottom, EDGE.top]);
  const path = (steps: readonly LoadStep[]) =>
    line<LoadStep>()
      .x((_, i) => x((i * (longest - 1)) / Math.max(1, steps.length - 1)))
      .y((s) => y(s.share))
      .curve(curveStepAfter)([...steps]) ?? '';
  const lowest = (l: LoadLine) => Math.min(...l.steps.map((s) => s.share));
  // Labels stand beside the lines' lowest levels, spread so that they do not cover one another.
  const levels = [...new Set(lines.map(lowest))].sort((a, b) => a - b);
  const spread = scalePoint(levels.map(String), [y(0), y(0.92)]).padding(0.2);
  const says = lines
    .map((l) => `${l.name}: at least ${Math.round(lowest(l) * 100)} % stays on${l.refused ? ', not allowed here' : ''}`)
    .join('; ');
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={`Tension left during the change. ${says}.`}
      className="w-full max-w-[520px]"
    >
      <LeftAxis scale={y} ticks={4} say={(t) => `${Math.round(t * 100)} %`} from={EDGE.left} to={WIDTH - EDGE.right} />
      {floating && (
        <g>
          <path
            d={`M${EDGE.left} ${y(SAFE_SHARE)}H${WIDTH - EDGE.right}`}
            className="stroke-error"
            strokeDasharray="6 4"
            strokeWidth={1.5}
          />
          <text x={WIDTH - EDGE.right - 4} y={y(SAFE_SHARE) - 5} textAnchor="end" className="fill-error text-[12px]">
            below this the bridge may fall
          </text>
        </g>
      )}
      {[...lines]
        .sort((a, b) => Number(a.lit) - Number(b.lit))
        .map((l) => (
          <path
            key={l.name}
            d={path(l.steps)}
            fill="none"
            className={l.lit ? 'stroke-primary' : 'stroke-secondary'}
            strokeWidth={l.lit ? 3 : 1.2}
            strokeDasharray={l.refused ? '3 3' : undefined}
          />
        ))}
      {levels.map((level) => {
        const at = lines.filter((l) => lowest(l) === level);
        const lit = at.some((l) => l.lit);
        return (
          <text
            key={level}
            x={WIDTH - EDGE.right + 6}
            y={(spread(String(level)) ?? y(level)) + 4}
            className={`text-[12px] ${lit ? 'fill-primary font-bold' : 'fill-current'}`}
          >
            {at.map((l) => l.short).join(', ')}
          </text>
        );
      })}
      <text x={EDGE.left} y={HEIGHT - 10} className="fill-current text-[12px]">
        start
      </text>
      <text x={WIDTH - EDGE.right} y={HEIGHT - 10} textAnchor="end" className="fill-current text-[12px]">
        all near pitch
      </text>
    </svg>
  );
}
