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
      where: `${length}feet on their marks; if there are none, the middle of each foot level with the inner nicks of the f-holes`,
      good:
        build.family === 'double-bass'
          ? 'Feet where they were before, within about 6 mm.'
          : 'Feet where they were before, both flat on the top.',
      numbers,
    };
  return {
    where: `${length}feet on their marks; the 12th-fret octave decides`,
    good: 'Each string plays its octave at the 12th fret.',
    numbers,
  };
}
