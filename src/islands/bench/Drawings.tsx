import { postPaths } from './postDrawing';

/** The post with this string's predicted winds. */
export function PostDrawing({
  turns,
  gaugeMm,
  diameterMm,
  oneOver,
  leavesRight,
}: {
  turns: number;
  gaugeMm: number;
  diameterMm: number;
  oneOver: boolean;
  leavesRight: boolean;
}) {
  const scale = 11;
  const radius = Math.min(58, (diameterMm * scale) / 2);
  // Thin strings would vanish at scale, so the line keeps a least weight.
  const weight = Math.max(7, Math.min(13, gaugeMm * scale));
  const centreX = 150;
  const holeY = oneOver ? 92 : 74;
  const p = postPaths({ turns, oneOver, leavesRight, centreX, radius: radius + weight / 2, holeY, weight });
  const bottom = Math.max(210, p.leavesAt.y + 46);
  const side = leavesRight ? 1 : -1;
  const endX = centreX - side * (radius + 34);
  return (
    <svg
      viewBox={`0 0 300 ${bottom + 26}`}
      role="img"
      aria-label={`Post with about ${turns.toFixed(1)} winds, ${oneOver ? 'the first above its own end' : 'each below the last'}; the string leaves on the ${leavesRight ? 'right' : 'left'}, the inside of the head`}
      className="w-full max-w-[330px]"
    >
      <ellipse cx={centreX} cy={bottom} rx={radius + 46} ry={12} className="fill-base-300" />
      {p.back.map((d) => (
        <path key={d} d={d} fill="none" className="stroke-accent" strokeOpacity={0.35} strokeWidth={weight * 0.8} />
      ))}
      <path
        d={`M${centreX - radius} 40V${bottom}a${radius} 9 0 0 0 ${radius * 2} 0V40a${radius} 9 0 0 0 ${-radius * 2} 0`}
        className="fill-base-200 stroke-base-content"
        strokeWidth={2}
      />
      <ellipse cx={centreX} cy={40} rx={radius} ry={9} className="fill-base-200 stroke-base-content" strokeWidth={2} />
      <path
        d={`M${centreX} ${holeY}L${endX} ${holeY}l${-side * 14} -22`}
        fill="none"
        className="stroke-accent"
        strokeWidth={weight * 0.8}
      />
      <ellipse cx={centreX} cy={holeY} rx={radius * 0.42} ry={weight * 0.75} className="fill-base-content" />
      {p.front.map((d) => (
        <path key={d} d={d} fill="none" className="stroke-accent" strokeWidth={weight} strokeLinecap="round" />
      ))}
      <path
        d={`M${p.leavesAt.x.toFixed(1)} ${p.leavesAt.y.toFixed(1)}q${side * 4} 22 ${side * (96 - radius / 2)} ${bottom - p.leavesAt.y - 18}`}
        fill="none"
        className="stroke-accent"
        strokeWidth={weight}
        strokeLinecap="round"
      />
      <text x={endX - side * 14} y={holeY - 30} textAnchor="middle" className="fill-current text-[13px]">
        own end
      </text>
      <text x={centreX + side * 112} y={bottom - 84} textAnchor="middle" className="fill-current text-[13px]">
        to the nut
      </text>
    </svg>
  );
}

/** How the tail end should sit: the ball against the plate, or the tie on the back face. */
export function TailDrawing({ kind, tucks }: { kind: 'pin' | 'tie'; tucks: number }) {
  if (kind === 'pin') {
    return (
      <svg
        viewBox="0 0 300 220"
        role="img"
        aria-label="Cross-section of a pin bridge: the ball lies against the bridge plate beside the pin, not on its tip"
        className="w-full max-w-[330px]"
      >
        <path d="M30 92h240v22H30z" className="fill-base-300" />
        <path d="M70 66h150q16 0 22 26H48q6-26 22-26z" className="fill-base-200 stroke-base-content" strokeWidth={2} />
        <path d="M60 114h180v14H60z" className="fill-base-200 stroke-base-content" strokeWidth={2} />
        <path d="M163 46h26l-6 112h-14z" className="fill-base-100 stroke-base-content" strokeWidth={2} />
        <ellipse cx="176" cy="44" rx="17" ry="9" className="fill-base-100 stroke-base-content" strokeWidth={2} />
        <path d="M20 40L116 54Q152 60 156 84L157 136" fill="none" className="stroke-accent" strokeWidth={6} />
        <circle cx="153" cy="141" r="13" className="fill-accent stroke-base-content" strokeWidth={2} />
        <text x="64" y="176" className="fill-current text-[14px]" textAnchor="middle">
          ball against
        </text>
        <text x="64" y="193" className="fill-current text-[14px]" textAnchor="middle">
          the plate
        </text>
        <path d="M92 168l44 -20" className="stroke-current" strokeWidth={1.4} />
        <text x="250" y="40" className="fill-current text-[14px]" textAnchor="middle">
          groove to
        </text>
        <text x="250" y="57" className="fill-current text-[14px]" textAnchor="middle">
          the string
        </text>
      </svg>
    );
  }
  // The tail weaves under the loop that comes up from the hole; each crossing is a tuck, the last on the back face.
  const edgeY = 132;
  const first = 74;
  const last = edgeY + 22;
  const crossings = Array.from({ length: tucks }, (_, i) =>
    tucks === 1 ? last : first + ((last - first) * i) / (tucks - 1),
  );
  const strandX = 150;
  const tail = crossings
    .map(
      (y, i) =>
        `${i === 0 ? `M${strandX} 36q-34 2 -34 ${(y - 36) / 2}q0 ${(y - 36) / 2} 34 ${(y - 36) / 2}` : `q-58 ${(y - (crossings[i - 1] as number)) / 2} 0 ${y - (crossings[i - 1] as number)}`}q34 3 ${i === crossings.length - 1 ? '52 12' : `0 ${0}`}`,
    )
    .join('');
  return (
    <svg
      viewBox="0 0 300 236"
      role="img"
      aria-label={`Tie bridge from behind and above: the tail is tucked under the loop ${tucks} times, the last tuck on the back face, below the edge`}
      className="w-full max-w-[330px]"
    >
      <path d={`M40 48h220l14 ${edgeY - 48}H26z`} className="fill-base-200 stroke-base-content" strokeWidth={2} />
      <path d={`M26 ${edgeY}h248v64H26z`} className="fill-base-300 stroke-base-content" strokeWidth={2} />
      <path d={`M${strandX} 4V36`} className="stroke-accent" strokeWidth={6} strokeLinecap="round" />
      <path
        d={tail}
        fill="none"
        className="stroke-accent"
        strokeWidth={6}
        strokeLinecap="round"
        strokeLinejoin="round"
      />
      <path d={`M${strandX} 176V36`} className="stroke-base-200" strokeWidth={11} />
      <path d={`M${strandX} 176V30`} className="stroke-accent" strokeWidth={6} strokeLinecap="round" />
      <circle cx={strandX} cy={178} r={7} className="fill-base-content" />
      <text x="160" y="20" className="fill-current text-[14px]">
        standing string
      </text>
      <text x="34" y={edgeY - 8} className="fill-current text-[14px]">
        top
      </text>
      <text x="34" y={edgeY + 22} className="fill-current text-[14px]">
        back face
      </text>
      <text x="150" y="222" textAnchor="middle" className="fill-current text-[14px]">
        {tucks} tucks under the loop, the last below the edge
      </text>
    </svg>
  );
}
