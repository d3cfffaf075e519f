/** By whom a parcel is: the pass that their page had when it was made. */
export const passHeader = (of: { pass?: string }): Record<string, string> => ({ 'acting-pass': of.pass ?? '' });

/** The pass of whoever this page is open for. */
export const ownPass = (): string => document.documentElement.dataset.pass ?? '';
