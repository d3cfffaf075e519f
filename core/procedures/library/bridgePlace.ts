import type { Build } from '../../instruments/build';
import { isBowed } from '../../instruments/build';
import type { Quantity } from '../types';

/**
 * The length from nut to bridge that somebody measured on this very instrument; nothing where nobody did. What the
 * catalogue says of a size is never a place for a bridge: on frets every octave would go sharp or flat by it.
 */
export const notedLength = (build: Pick<Build, 'noted'>): Record<string, Quantity> =>
  build.noted
    ? {
        length: {
          label: 'Nut to bridge',
          value: build.noted.lengthMm,
          unit: 'mm',
          digits: 0,
          why: `Measured on this instrument on ${build.noted.on}.`,
        },
      }
    : {};

/** Where a floating bridge belongs: as measured on this instrument, else on its marks, else by frets or nicks. */
export function bridgePlace(build: Pick<Build, 'family' | 'noted'>): {
  /** After "bridge": "on its marks …". */
  where: string;
  /** How it is known to be there. */
  good: string;
  numbers: Record<string, Quantity>;
} {
  const numbers = notedLength(build);
  const length = build.noted ? '{length} from nut to bridge, ' : '';
  if (isBowed(build.family))
    return {
      where: `${length}feet on their marks; without marks, the middle of each foot level with the inner nicks of the sound holes`,
      good:
        build.family === 'double-bass'
          ? 'Feet where they stood before, read to about 6 mm.'
          : 'Feet where they stood before, both flat on the top.',
      numbers,
    };
  return {
    where: `${length}feet on their marks; the octave at the twelfth fret decides`,
    good: 'At the twelfth fret each string plays its octave.',
    numbers,
  };
}
