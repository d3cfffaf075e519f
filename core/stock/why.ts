/** Why a move was written, in words around what there is to name: a string's number, an order, a file. */
const WORDS = {
  /** Somebody said it themselves, or nothing has to be said. */
  said: (of) => of,
  kit: () => 'for a kit',
  opened: () => 'opened',
  halved: () => 'cut in half',
  delivery: () => 'delivery',
  order: (of) => `order ${of}`,
  opening: () => 'opening stock',
  list: (of) => `imported from ${of}`,
  'list-taken-back': (of) => `import undone: ${of}`,
  'back-to-shelf': () => 'back to stock',
  'taken-back': () => 'undone',
  'change-taken-back': () => 'string change undone',
  lost: (of) => `string ${of} broke while fitting`,
  'not-lost': () => 'not broken after all',
  'found-at-bench': () => 'found at the bench, not in the stock record',
  'found-part': () => 'fitted, although the stock record showed none',
  'left-over': () => 'left over, not kept',
  saved: () => 'saved from old strings',
} as const satisfies Record<string, (of: string) => string>;

export type WhyMoved = keyof typeof WORDS;

/** Kept as values: why, and what it names, or what somebody said. */
export interface Reason {
  why: WhyMoved;
  of: string;
}

export const because = (why: Exclude<WhyMoved, 'said'>, of: string | number = ''): Reason => ({ why, of: String(of) });

/** What somebody said; where they said nothing, what it was. */
export const saidOr = (text: string, otherwise?: Reason): Reason =>
  text || !otherwise ? { why: 'said', of: text } : otherwise;

/** The words of a move's reason, in lower case; empty where there is nothing to say. A newer version's reason says what it names. */
export const sayReason = (why: string, of: string): string =>
  Object.hasOwn(WORDS, why) ? WORDS[why as WhyMoved](of) : of;

/** Why something was set aside for a job, or put back. */
export type WhyClaimed = 'kit' | 'spare' | 'used' | 'taken' | 'job-finished' | 'put-away' | 'another-way';
