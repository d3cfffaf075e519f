import type { StripString } from '../../server/fleet/state';
import { stripGeometry, stripWords } from './strip';

interface Props {
  strings: readonly StripString[];
  width?: number;
  height?: number;
  /** Courses in the same order, where two strings belong together. */
  courses?: readonly number[];
  /** Position numbers to light up, on the bench. */
  lit?: readonly number[];
  /** Fill the width there is; only the length of the strings is stretched. */
  stretch?: boolean;
}

/**
 * An instrument drawn as its strings: the one drawing used in tables, on cards and at the bench. Form carries the
 * state as well as colour: hatch for wound, a wavy end for settling, a cross for broken or missing.
 */
export function StringStrip({ strings, width = 132, height = 28, courses, lit, stretch }: Props) {
  const g = stripGeometry(strings, width, height, courses);
  const hatch = Math.max(1.2, height / 26);
  return (
    <svg
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      role="img"
      aria-label={stripWords(strings)}
      preserveAspectRatio={stretch ? 'none' : 'xMinYMid'}
      className={`block max-w-full ${stretch ? 'w-full' : ''}`}
    >
      {g.lines.map((line) => {
        const dim = lit && lit.length > 0 && !lit.includes(line.number);
        return (
          <g key={line.number} fill="none" opacity={dim ? 0.45 : undefined}>
            <path className="strip-track" strokeWidth={line.width} d={`M${g.nutX} ${line.y.toFixed(1)}H${g.bridgeX}`} />
            {line.fillTo > g.nutX + 0.5 && (
              <path
                className={`strip-${line.tone}`}
                strokeWidth={line.width}
                strokeDasharray={
                  line.tone === 'unknown' ? '1.5 6' : line.wound ? `${hatch} ${hatch * 0.55}` : undefined
                }
                d={`M${g.nutX} ${line.y.toFixed(1)}H${line.fillTo.toFixed(1)}`}
              />
            )}
            {line.wave && <path className="strip-settling" strokeWidth={Math.max(1, line.width * 0.7)} d={line.wave} />}
            {line.crossAt !== null && (
              <path
                className="strip-cross"
                strokeWidth={Math.max(1.6, height / 40)}
                d={`M${line.crossAt - 3.5} ${line.y - 3.5}l7 7m0 -7l-7 7`}
              />
            )}
          </g>
        );
      })}
      <rect x={0} y={0} width={3} height={height} rx={0.5} fill="currentColor" />
      <rect x={width - 3.5} y={0.5} width={3} height={height - 1} rx={1} fill="none" stroke="currentColor" />
    </svg>
  );
}
