import type { Build } from '../../../core/instruments/build';
import { type PostPlace, postPlaces } from '../../../core/winding/post';

/** Width of the nut in mm by family, for drawing. */
const NUT_MM: Partial<Record<Build['family'], number>> = {
  classical: 52,
  'twelve-string': 48,
  ukulele: 35,
  banjo: 33,
  mandolin: 28,
  violin: 24,
  viola: 25,
  cello: 32,
  'double-bass': 42,
};

/**
 * The head from the front, to scale: posts, the path of each string from its nut slot, the order of working, and where
 * one string is cut.
 */
export function HeadDrawing({
  build,
  order,
  lit,
  cutMm,
}: {
  build: Pick<Build, 'family' | 'head' | 'handedness' | 'positions' | 'post' | 'tuner'>;
  /** Numbers in working order. */
  order: readonly number[];
  /** The string that is meant. */
  lit: number | null;
  /** How far past its post the lit string is cut, in mm; null when it is not cut there. */
  cutMm: number | null;
}) {
  const nutMm = NUT_MM[build.family] ?? 43;
  const places = postPlaces(build, nutMm);
  const top = Math.max(...places.map((p) => p.y)) + build.post.diameterMm + 14;
  const cutTop = cutMm === null ? 0 : (places.find((p) => p.number === lit)?.y ?? 0) + cutMm + 8;
  const height = Math.max(top, cutTop);
  const half = Math.max(nutMm / 2, ...places.map((p) => Math.abs(p.x))) + build.post.diameterMm + 20;
  const y = (mm: number) => height - mm + 8;
  const radius = build.post.diameterMm / 2;
  const lying = build.head === 'slotted' || build.head === 'pegbox';
  // The string leaves the post on its inner side; over the top it leaves from the middle.
  const leavesX = (p: PostPlace) => (lying ? p.x * 0.35 : p.x + p.inside * radius);
  const place = places.find((p) => p.number === lit);
  const edge = Math.max(...places.map((p) => Math.abs(p.x))) + radius + 13;
  return (
    <svg
      viewBox={`${-half} 0 ${half * 2} ${height + 22}`}
      role="img"
      aria-label={`Seen from the front: ${places.map((p) => `string ${p.number} on the ${p.side} side`).join(', ')}. Working order: ${order.join(', ')}.${cutMm === null || lit === null ? '' : ` String ${lit} is cut ${cutMm.toFixed(0)} mm past its post.`}`}
      className="w-full max-h-[420px]"
    >
      <path
        d={`M${-nutMm / 2 - 1} ${y(0)}L${-edge} ${y(Math.min(...places.map((p) => p.y)) * 0.55)}V${y(top)}Q0 ${y(top + 9)} ${edge} ${y(top)}V${y(Math.min(...places.map((p) => p.y)) * 0.55)}L${nutMm / 2 + 1} ${y(0)}Z`}
        className="fill-base-200 stroke-base-content"
        strokeWidth={0.8}
      />
      <path d={`M${-nutMm / 2 - 1} ${y(-1)}h${nutMm + 2}v4h${-nutMm - 2}z`} className="fill-base-300" />
      {places.map((p) => (
        <g key={p.number} className={p.number === lit ? 'stroke-accent' : 'stroke-secondary'}>
          <path
            d={`M${p.nutX} ${y(-6)}V${y(0)}L${leavesX(p)} ${y(p.y)}`}
            fill="none"
            strokeWidth={p.number === lit ? 2 : 1}
          />
        </g>
      ))}
      {places.map((p) => (
        <g key={p.number}>
          {lying ? (
            <rect
              x={Math.min(p.x, 0) - (p.x < 0 ? 4 : 0)}
              y={y(p.y) - radius * 0.6}
              width={Math.abs(p.x) + 4}
              height={radius * 1.2}
              className="fill-base-100 stroke-base-content"
              strokeWidth={0.8}
            />
          ) : (
            <circle cx={p.x} cy={y(p.y)} r={radius} className="fill-base-100 stroke-base-content" strokeWidth={0.8} />
          )}
          <text
            x={lying ? (p.x < 0 ? -edge - 3 : edge + 3) : p.x - p.inside * (radius + 3)}
            y={y(p.y) + 2.5}
            fontSize={8}
            textAnchor={(lying ? p.x < 0 : p.inside === 1) ? 'end' : 'start'}
            className={`fill-current ${p.number === lit ? 'font-bold' : ''}`}
          >
            {p.number}
          </text>
          {order.includes(p.number) && order.length > 1 && !lying && (
            <text
              x={p.x}
              y={y(p.y) + 2.2}
              fontSize={Math.min(7, radius * 1.6)}
              textAnchor="middle"
              className="fill-current"
            >
              {order.indexOf(p.number) + 1}
            </text>
          )}
        </g>
      ))}
      {place && cutMm !== null && (
        <g>
          <path
            d={`M${leavesX(place)} ${y(place.y)}V${y(place.y + cutMm)}`}
            className="stroke-accent"
            strokeWidth={1.6}
            strokeDasharray="3 2"
            fill="none"
          />
          <path d={`M${leavesX(place) - 5} ${y(place.y + cutMm)}h10`} className="stroke-error" strokeWidth={1.8} />
          <text
            x={leavesX(place) + 7}
            y={y(place.y + cutMm) + 3}
            fontSize={8}
            className="fill-current stroke-base-200"
            strokeWidth={3}
            paintOrder="stroke"
          >
            cut at {cutMm.toFixed(0)} mm
          </text>
        </g>
      )}
    </svg>
  );
}
