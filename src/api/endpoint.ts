import type { APIContext, APIRoute } from 'astro';
import { z } from 'zod';
import type { Acting } from '../../server/db/change';
import { problem, problemOf } from './problem';

/** The key must be there and long enough not to meet another's by chance. */
const Key = z.string().min(8).max(120);

/** The JSON of a request in a shape, or the answer that says what is wrong with it. */
export async function readBody<S extends z.ZodType>(
  request: Request,
  shape: S,
): Promise<{ ok: true; value: z.infer<S> } | { ok: false; answer: Response }> {
  const no = (type: string, title: string, detail: string) => ({
    ok: false as const,
    answer: problem({ type, status: 400, title, detail }),
  });
  let json: unknown;
  try {
    json = await request.json();
  } catch {
    return no('not-json', 'Not JSON', 'Send the request body as JSON.');
  }
  const body = shape.safeParse(json);
  return body.success
    ? { ok: true, value: body.data }
    : no('invalid', 'Something is missing or wrong', z.prettifyError(body.error));
}

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
    const body = await readBody(context.request, shape);
    if (!body.ok) return body.answer;
    try {
      const acting = { personId: await actingPerson(context), now: context.locals.now, key: key.data };
      return Response.json((await run(acting, body.value, context)) ?? null);
    } catch (error) {
      return problemOf(error);
    }
  };
}

/**
 * Who did it: the person the page is open for, or the one it was done by where it comes from a bench that could not send
 * it at once, and somebody else has taken the device since.
 */
async function actingPerson({ request, locals }: APIContext): Promise<number> {
  const said = Number(request.headers.get('acting-person'));
  if (!said || said === locals.person.id) return locals.person.id;
  const person = await locals.db('person').where({ id: said }).first();
  return person?.id ?? locals.person.id;
}

/** A whole number out of the path. */
export const pathId = (context: APIContext): number => {
  const id = Number(context.params.id);
  return Number.isInteger(id) ? id : -1;
};
