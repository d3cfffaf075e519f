import type { WrongId } from '../../core/faults/wrongs';

/**
 * What is wrong, drawn: strings with what is the matter with them, or the part that is meant. Lines only, so that it
 * is read in both lights; the words stand beside it.
 */
const DRAWN: Record<WrongId, string> = {
  // The second string ends in two curls.
  broken: 'M14 4v40M28 4v40M34 4v40M20 4v13c0 5 5 5 4 9M20 44V33c0-4-5-4-4-8',
  // Rough: a saw along one string.
  dull: 'M14 4v40M34 4v40M28 4v40M20 4v6l-3 3 6 4-6 4 6 4-6 4 6 4-3 3v8',
  // Pitch that falls: an arrow beside a peg.
  'will-not-hold': 'M14 4v40M20 4v40M32 10v24M26 28l6 8 6-8',
  // All of them in waves.
  slack: 'M14 4c6 7-6 13 0 20s-6 13 0 20M23 4c6 7-6 13 0 20s-6 13 0 20M32 4c6 7-6 13 0 20s-6 13 0 20',
  // Noise: strokes beside a string that swings.
  buzz: 'M24 4c5 7 5 33 0 40M24 4c-5 7-5 33 0 40M13 16l-5-3M13 24H6M13 32l-5 3M35 16l5-3M35 24h7M35 32l5 3',
  // A tuning peg with its turn.
  peg: 'M24 22v22M16 14a8 8 0 1 0 16 0a8 8 0 1 0-16 0M36 6l4 5-6 2M12 30l-4-5 6-2',
  // A body with a crack.
  crack: 'M24 5c-9 0-12 6-9 12-5 4-7 10-7 14 0 8 7 13 16 13s16-5 16-13c0-4-2-10-7-14 3-6 0-12-9-12M24 24l-4 5 6 4-5 8',
  // A bridge that leans on a top.
  bridge: 'M4 40h40M18 40l8-24M30 40l3-20M22 16l14 4M8 22l14-6',
  // A plug and its socket.
  electrics: 'M6 24h12M18 17h9a7 7 0 0 1 0 14h-9zM38 18a9 9 0 0 1 0 12M34 24h4',
  // A case with its handle.
  case: 'M5 18h38v22H5zM17 18v-7h14v7M5 28h38M22 26h4v5h-4z',
  // A question.
  other: 'M17 16c0-10 15-10 15 0 0 6-8 7-8 14M24 38v2',
};

export const WrongDrawing = ({ wrong, size = 48 }: { wrong: WrongId; size?: number }) => (
  <svg
    width={size}
    height={size}
    viewBox="0 0 48 48"
    aria-hidden="true"
    fill="none"
    stroke="currentColor"
    strokeWidth="2.4"
    strokeLinecap="round"
    strokeLinejoin="round"
    className="shrink-0"
  >
    <path d={DRAWN[wrong]} />
  </svg>
);
