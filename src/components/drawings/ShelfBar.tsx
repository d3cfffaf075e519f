const BOX = 13;
const GAP = 4;
/** More than this are said as a number. */
const MOST = 12;

/** Sealed packs as boxes, those set aside for jobs hatched, packs under way as outlines. */
export function ShelfBar({ packs, spokenFor, underWay }: { packs: number; spokenFor: number; underWay: number }) {
  const shown = Math.min(MOST, packs);
  const coming = Math.min(MOST - shown, underWay);
  const boxes = shown + coming;
  const id = `hatch-${packs}-${spokenFor}-${underWay}`;
  return (
    <svg
      width={(BOX + GAP) * MOST + 30}
      height={BOX + 2}
      role="img"
      aria-label={`${packs} sealed${spokenFor ? `, ${spokenFor} of them reserved` : ''}${underWay ? `, ${underWay} on order` : ''}`}
    >
      <defs>
        <pattern id={id} width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <path d="M0 0V4" className="stroke-primary" strokeWidth="2" />
        </pattern>
      </defs>
      {Array.from({ length: boxes }, (_, i) => {
        const closed = i < shown;
        const aside = i < Math.min(shown, spokenFor);
        return (
          <rect
            // biome-ignore lint/suspicious/noArrayIndexKey: the boxes are all alike, only their number changes
            key={i}
            x={1 + i * (BOX + GAP)}
            y={1}
            width={BOX}
            height={BOX}
            rx={2}
            className={`stroke-primary ${closed && !aside ? 'fill-primary' : ''}`}
            fill={aside ? `url(#${id})` : closed ? undefined : 'none'}
            strokeDasharray={closed ? undefined : '3 2'}
          />
        );
      })}
      {packs === 0 && underWay === 0 && (
        <text x={0} y={BOX} className="fill-error text-[13px] font-semibold">
          none
        </text>
      )}
      {packs + underWay > boxes && (
        <text x={(BOX + GAP) * boxes + 2} y={BOX - 1} className="fill-current text-[13px]">
          +{packs + underWay - boxes}
        </text>
      )}
    </svg>
  );
}
