// What is chosen from, for shapes and screens alike, apart from the shapes: a page does not load what checks them.

/** Why an instrument is not in the programme any more. */
export const GONE = ['sold', 'lost', 'written off', 'given back'] as const;

/** What can be asked for beside what is due. */
export const REQUEST_KINDS = ['inspection', 'service', 'refit'] as const;
