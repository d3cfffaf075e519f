/**
 * A tag as it is looked for: in any case, without blanks around it, whichever way its letters are encoded. Two tags
 * with the same key are the same tag. A tilde, which no tag has, stands for a slash, as in an address.
 */
export const tagKey = (tag: string): string =>
  tag.normalize('NFKC').replaceAll('~', '/').trim().replace(/\s+/g, ' ').toLowerCase().replaceAll('ß', 'ss');

/** A tag as a part of an address, where a slash would begin another part. */
export const tagPath = (tag: string): string => encodeURIComponent(tag.replaceAll('/', '~'));
