import type { APIContext, APIRoute } from 'astro';
import { z } from 'zod';
import type { Acting } from '../../server/db/change';
import { loadPeople } from '../../server/programme/programme';
import { sayInvalid } from './invalid';
import { problem, problemOf } from './problem';

/** The key must be there and long enough not to meet another's by chance. */
const Key = z.string().min(8).max(120);

/** The most that a request may bring; a file that is read may bring more. */
const MOST_BYTES = 1_000_000;

/** The text of a request as far as it is not longer than it may be; null when it is. */
async function readText(request: Request, mostBytes: number): Promise<string | null> {
  if (Number(request.headers.get('content-length') ?? 0) > mostBytes) return null;
  if (!request.body) return '';
  const chunks: Uint8Array[] = [];
  let bytes = 0;
  for await (const chunk of request.body as unknown as AsyncIterable<Uint8Array>) {
    bytes += chunk.byteLength;
    // A length may be left out, or not be true.
    if (bytes > mostBytes) return null;
    chunks.push(chunk);
  }
  return new TextDecoder().decode(Buffer.concat(chunks));
}

/** The JSON of a request in a shape, or the answer that says what is wrong with it. */
export async function readBody<S extends z.ZodType>(
  request: Request,
  shape: S,
  mostBytes = MOST_BYTES,
): Promise<{ ok: true; value: z.infer<S> } | { ok: false; answer: Response }> {
  const no = (type: string, title: string, detail: string, status = 400) => ({
    ok: false as const,
    answer: problem({ type, status, title, detail }),
  });
  let json: unknown;
  try {
    const text = await readText(request, mostBytes);
    if (text === null)
      return no(
        'too-large',
        'Too much at once',
        `At most ${(mostBytes / 1_000_000).toLocaleString('en')} MB can be sent in one go. Nothing was changed.`,
        413,
      );
    json = JSON.parse(text);
  } catch {
    return no(
      'not-json',
      'It could not be read',
      'What arrived was cut short or is no JSON. Nothing was changed; try again.',
    );
  }
  const body = shape.safeParse(json);
  return body.success
    ? { ok: true, value: body.data }
    : no('invalid', 'Something is missing or wrong', sayInvalid(body.error));
}

/**
 * An endpoint that changes something: reads JSON of a shape, knows who acts and by which idempotency key, and answers
 * JSON or problem details.
 */
export function changing<S extends z.ZodType>(
  shape: S,
  run: (acting: Acting, body: z.infer<S>, context: APIContext) => Promise<unknown>,
  mostBytes?: number,
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
    const body = await readBody(context.request, shape, mostBytes);
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
  const people = await loadPeople(locals.db);
  return people.find((p) => p.id === said)?.id ?? locals.person.id;
}

/** A whole number out of the path. */
export const pathId = (context: APIContext): number => {
  const id = Number(context.params.id);
  return Number.isInteger(id) ? id : -1;
};
