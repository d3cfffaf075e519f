/**
 * What can go wrong for a user, in words that say what to do. Each has an HTTP status and a stable `type`, which the
 * API turns into RFC 9457 problem details.
 */
export class UserError extends Error {
  constructor(
    readonly type: string,
    readonly status: number,
    readonly title: string,
    readonly detail: string,
    readonly extra: Record<string, unknown> = {},
  ) {
    super(`${title}: ${detail}`);
    this.name = 'UserError';
  }
}

export const notFound = (what: string) =>
  new UserError('not-found', 404, 'Not found', `${what} is not in this programme, or has been removed.`);

/** Someone else changed the same thing first: both versions are sent so that nothing has to be guessed. */
export const conflict = (detail: string, extra: Record<string, unknown>) =>
  new UserError('conflict', 409, 'Changed in the meantime', detail, extra);

export const refused = (type: string, title: string, detail: string, extra: Record<string, unknown> = {}) =>
  new UserError(type, 422, title, detail, extra);
