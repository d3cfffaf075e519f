import type { ReactNode } from 'react';
import { times } from '../../../core/count';
import type { StringEnd, TailEnd } from '../../../core/instruments/build';

const string = {
  fill: 'none',
  className: 'stroke-accent',
  strokeWidth: 6,
  strokeLinecap: 'round' as const,
  strokeLinejoin: 'round' as const,
};
const part = { className: 'fill-base-200 stroke-base-content', strokeWidth: 2 };
const wood = { className: 'fill-base-300' };

function Frame({ says, children }: { says: string; children: ReactNode }) {
  return (
    <svg viewBox="0 0 300 236" role="img" aria-label={says} className="w-full max-w-[330px]">
      {children}
    </svg>
  );
}

function Words({ x, y, children, middle = true }: { x: number; y: number; children: ReactNode; middle?: boolean }) {
  return (
    <text x={x} y={y} className="fill-current text-[14px]" textAnchor={middle ? 'middle' : 'start'}>
      {children}
    </text>
  );
}

const Ball = ({ x, y }: { x: number; y: number }) => (
  <circle cx={x} cy={y} r="13" className="fill-accent stroke-base-content" strokeWidth={2} />
);

/** How the tail end should sit on this instrument, in cross-section or from above. */
export function TailDrawing({ tailEnd, stringEnd, turns }: { tailEnd: TailEnd; stringEnd: StringEnd; turns: number }) {
  switch (tailEnd) {
    case 'pin-bridge':
      return <PinBridge knot={stringEnd === 'knot'} />;
    case 'tie-block-6':
    case 'uke-tie':
      return <Tie turns={turns} />;
    case 'tie-block-12':
      return <TwelveHoles turns={turns} />;
    case 'uke-slot':
      return (
        <Frame says="Slotted bridge from the side: the string lies in the slot, its knot caught below">
          <path d="M30 128h240v24H30z" {...wood} />
          <path d="M60 76h180v52H60z" {...part} />
          <path
            d="M150 76v34h-44"
            className="stroke-base-content"
            strokeWidth={1.5}
            fill="none"
            strokeDasharray="4 4"
          />
          <path d="M290 44L170 70Q150 76 150 92V112" {...string} />
          <circle cx="150" cy="118" r="10" className="fill-accent stroke-base-content" strokeWidth={2} />
          <Words x={150} y={190}>
            knot below the slot
          </Words>
          <Words x={244} y={36}>
            to the nut
          </Words>
        </Frame>
      );
    case 'through-body':
      return (
        <Frame says="Body in cross-section: the ball is seated in its ferrule at the back, the string comes up over the saddle">
          <path d="M20 90h260v100H20z" {...wood} />
          <path d="M132 90h36v100h-36z" className="fill-base-100" />
          <path d="M120 168h60v22h-60z" {...part} />
          <path d="M100 60h28v30h-28z" {...part} />
          <path d="M284 40L128 56Q118 58 124 66L150 96V172" {...string} />
          <Ball x={150} y={182} />
          <Words x={150} y={224}>
            ball seated in its ferrule
          </Words>
        </Frame>
      );
    case 'rear-block':
      return (
        <Frame says="Vibrato block in cross-section: the ball is seated in the block from behind, the springs behind it">
          <path d="M20 74h260v16H20z" {...wood} />
          <path d="M108 66h84v14h-84z" {...part} />
          <path d="M124 80h52v96h-52z" {...part} />
          <path d="M143 90h14v80h-14z" className="fill-base-100" />
          <path d="M284 32L160 52Q150 54 150 66V158" {...string} />
          <Ball x={150} y={164} />
          <path
            d="M176 160l12 -7l12 14l12 -14l12 14l12 -14l12 14l10 -7"
            fill="none"
            className="stroke-secondary"
            strokeWidth={3}
          />
          <Words x={150} y={212}>
            ball seated in the block
          </Words>
        </Frame>
      );
    case 'stop-tailpiece':
    case 'stop-tailpiece-wrapped': {
      const over = tailEnd === 'stop-tailpiece-wrapped';
      return (
        <Frame
          says={
            over
              ? 'Stop tailpiece from the side: in from the front, over the top, to the bridge'
              : 'Stop tailpiece from the side: straight through from behind, to the bridge'
          }
        >
          <path d="M20 170h260v18H20z" {...wood} />
          <path d="M200 120h10v50h-10zM70 132h12v38h-12z" className="fill-base-content" />
          <path d="M184 92h42l-6 30h-30z" {...part} />
          <path d="M52 106q24 -22 48 0v22q-24 14 -48 0z" {...part} />
          {over ? (
            <>
              <path d="M298 64L206 88Q150 94 96 98Q66 84 56 108" {...string} />
              <Ball x={104} y={124} />
              <path d="M58 112Q64 128 92 124" {...string} />
            </>
          ) : (
            <>
              <path d="M298 64L206 88L92 116H52" {...string} />
              <Ball x={42} y={116} />
            </>
          )}
          <Words x={76} y={206}>
            tailpiece
          </Words>
          <Words x={206} y={206}>
            bridge
          </Words>
          <Words x={150} y={228}>
            {over ? 'over the top, only if found that way' : 'straight through'}
          </Words>
        </Frame>
      );
    }
    case 'wrap-around':
      return (
        <Frame says="Wrap-around bridge from the side: in from the front, over the top, to the nut">
          <path d="M20 170h260v18H20z" {...wood} />
          <path d="M142 134h14v36h-14z" className="fill-base-content" />
          <path d="M112 108q36 -34 74 0v24q-36 16 -74 0z" {...part} />
          <Ball x={192} y={126} />
          <path d="M180 126H120Q100 120 112 104Q146 76 186 92L298 66" {...string} />
          <Words x={150} y={214}>
            in from the front, over the top
          </Words>
        </Frame>
      );
    case 'loop-tailpiece':
      return (
        <Frame says="Hook tailpiece from above: the end on its hook, the string straight to its bridge notch">
          <path d="M24 60h96v120H24z" {...part} />
          {[84, 120, 156].map((y) => (
            <path
              key={y}
              d={`M104 ${y}h24a8 8 0 0 1 0 12h-24`}
              fill="none"
              className="stroke-base-content"
              strokeWidth={4}
            />
          ))}
          <path d="M236 50h14v140h-14z" {...part} />
          {stringEnd === 'ball' ? (
            <>
              <path d="M128 126H296" {...string} />
              <Ball x={122} y={126} />
            </>
          ) : (
            <path d="M296 126H160q-14 0 -24 -9a11 11 0 1 0 0 18q10 -9 24 -9" {...string} />
          )}
          <Words x={150} y={222}>
            hooked on; keep light tension
          </Words>
          <Words x={243} y={40}>
            bridge
          </Words>
        </Frame>
      );
    case 'tailpiece-plain':
    case 'tailpiece-fine-tuners': {
      const fine = tailEnd === 'tailpiece-fine-tuners';
      return (
        <Frame
          says={`Tailpiece from above: the ${stringEnd === 'knot' ? 'knot' : stringEnd} ${fine ? 'held in its fine tuner' : 'seated in its slot'}, the string straight to its bridge notch`}
        >
          <path d="M24 70q80 -18 112 0v96q-32 18 -112 0z" {...part} />
          <path d="M92 112h44v12h-44z" className="fill-base-content" />
          <circle cx="92" cy="118" r="12" className="fill-base-content" />
          {fine && <path d="M84 66h16v40h-16z" {...part} />}
          {fine && <circle cx="92" cy="60" r="14" {...part} />}
          <path d="M236 50h14v140h-14z" {...part} />
          {stringEnd === 'loop' ? (
            <path d="M296 118H126q-12 0 -20 -8a10 10 0 1 0 0 16q8 -8 20 -8" {...string} />
          ) : (
            <>
              <path d="M96 118H296" {...string} />
              <Ball x={92} y={118} />
            </>
          )}
          <Words x={84} y={212}>
            {fine ? 'fine tuner at mid travel' : 'end in its slot'}
          </Words>
          <Words x={243} y={212}>
            bridge
          </Words>
        </Frame>
      );
    }
  }
}

/** Two holes for each string: in low, over, back through the high one, under itself. */
function TwelveHoles({ turns }: { turns: number }) {
  return (
    <Frame
      says={`Tie block with two holes for each string, from behind: in at the low hole, back over the block, through the high hole, tucked under the loop ${times(turns)}`}
    >
      <path d="M30 60h240v120H30z" {...part} />
      {[70, 150, 230].map((x) => (
        <g key={x} className="fill-base-content">
          <circle cx={x - 16} cy="140" r="7" />
          <circle cx={x + 16} cy="104" r="7" />
        </g>
      ))}
      <path d="M150 6V52" {...string} />
      <path d="M134 140Q112 96 150 56Q178 70 166 104" {...string} />
      <path d={`M166 104Q140 120 128 ${turns > 1 ? 112 : 120}`} {...string} strokeDasharray="1 0" />
      {turns > 1 && <path d="M128 112Q120 128 104 124" {...string} />}
      <Words x={150} y={204}>
        low hole, over, high hole,
      </Words>
      <Words x={150} y={222}>
        tucked {times(turns)}
      </Words>
    </Frame>
  );
}

function PinBridge({ knot }: { knot: boolean }) {
  return (
    <svg
      viewBox="0 0 300 220"
      role="img"
      aria-label={`Cross-section of a pin bridge: the ${knot ? 'knot' : 'ball'} lies against the bridge plate beside the pin, not on its tip`}
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
        {knot ? 'knot against' : 'ball against'}
      </text>
      <text x="64" y="193" className="fill-current text-[14px]" textAnchor="middle">
        the plate
      </text>
      <path d="M92 168l44 -20" className="stroke-current" strokeWidth={1.4} />
      <text x="250" y="40" className="fill-current text-[14px]" textAnchor="middle">
        groove facing
      </text>
      <text x="250" y="57" className="fill-current text-[14px]" textAnchor="middle">
        the nut
      </text>
    </svg>
  );
}

function Tie({ turns: tucks }: { turns: number }) {
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
      aria-label={`Tie bridge from behind and above: the tail is tucked under the string ${times(tucks)}, the last tuck on the back face, below the edge`}
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
        the string
      </text>
      <text x="34" y={edgeY - 8} className="fill-current text-[14px]">
        top
      </text>
      <text x="34" y={edgeY + 22} className="fill-current text-[14px]">
        back face
      </text>
      <text x="150" y="222" textAnchor="middle" className="fill-current text-[14px]">
        tucked {times(tucks)}, the last below the edge
      </text>
    </svg>
  );
}
