import type { APIContext, APIRoute } from 'astro';
import { z } from 'zod';
import type { Acting } from '../../server/db/change';
import { problem, problemOf } from './problem';

/** The key must be there and long enough not to meet another's by chance. */
const Key = z.string().min(8).max(120);

/**
 * An endpoint that changes something: reads JSON of a shape, knows who acts and by which idempotency key, and answers
 * JSON or problem details.
 */
export function changing<S extends z.ZodType>(
  shape: S,
  run: (acting: Acting, body: z.infer<S>, context: APIContext) => Promise<unknown>,
): APIRoute {
  return async (context) => {
    const key = Key.safeParse(context.request.headers.get('idempotency-key'));
    if (!key.success) {
      return problem({
        type: 'no-key',
        status: 400,
        title: 'No idempotency key',
        detail: 'Send a header Idempotency-Key with a fresh value for each intention.',
      });
    }
    let json: unknown;
    try {
      json = await context.request.json();
    } catch {
      return problem({ type: 'not-json', status: 400, title: 'Not JSON', detail: 'Send the request body as JSON.' });
    }
    const body = shape.safeParse(json);
    if (!body.success) {
      return problem({
        type: 'invalid',
        status: 400,
        title: 'Something is missing or wrong',
        detail: z.prettifyError(body.error),
      });
    }
    try {
      const acting = { personId: context.locals.person.id, now: context.locals.now, key: key.data };
      return Response.json((await run(acting, body.data, context)) ?? null);
    } catch (error) {
      return problemOf(error);
    }
  };
}

/** A whole number out of the path. */
export const pathId = (context: APIContext): number => {
  const id = Number(context.params.id);
  return Number.isInteger(id) ? id : -1;
};
