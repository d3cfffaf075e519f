import type { StripString } from '../../core/wear/strip';
import { stripGeometry, stripMarkup, stripWords } from './strip';

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
  return (
    <svg
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      role="img"
      aria-label={stripWords(strings)}
      preserveAspectRatio={stretch ? 'none' : 'xMinYMid'}
      className={`block max-w-full ${stretch ? 'w-full' : ''}`}
      // biome-ignore lint/security/noDangerouslySetInnerHtml: made of numbers and fixed words only; one text instead of some thirty elements keeps long lists quick
      dangerouslySetInnerHTML={{ __html: stripMarkup(stripGeometry(strings, width, height, courses), lit) }}
    />
  );
}
