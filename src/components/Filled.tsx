import { fillText } from '../../core/procedures/quantities';
import type { Quantity } from '../../core/procedures/types';

/** A sentence with its numbers put in; a number never wraps away from its unit. */
export function Filled({ text, numbers }: { text: string; numbers?: Record<string, Quantity> | undefined }) {
  return fillText(text, numbers).map((piece, i) =>
    piece.name ? (
      // biome-ignore lint/suspicious/noArrayIndexKey: pieces of one fixed sentence
      <span key={i} className="whitespace-nowrap">
        {piece.text}
      </span>
    ) : (
      piece.text
    ),
  );
}
