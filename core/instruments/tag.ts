/**
 * A tag as it is looked for: in any case, without blanks around it, whichever way its letters are encoded. Two tags
 * with the same key are the same tag.
 */
export const tagKey = (tag: string): string =>
  tag.normalize('NFKC').trim().replace(/\s+/g, ' ').toLowerCase().replaceAll('ß', 'ss');
