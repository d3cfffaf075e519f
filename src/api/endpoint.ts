import type { APIContext, APIRoute } from 'astro';
import { z } from 'zod';
import { mayDeliverLate } from '../../server/access/late';
import type { Acting } from '../../server/db/change';
import { UserError } from '../../server/errors';
import { BROWSER, placeOfRequest } from './access';
import { readShape } from './invalid';
import { jsonDepth } from './jsonDepth';
import { problem, problemOf } from './problem';

/** The key must be there and long enough not to meet another's by chance. */
const Key = z.string().min(8).max(120);

/** The most that a request may bring; a file that is read may bring more. */
const MOST_BYTES = 1_000_000;

/** The bytes of a request as far as they are not more than they may be; null when they are. */
export async function readBytes(request: Request, mostBytes: number): Promise<Buffer | null> {
  if (Number(request.headers.get('content-length') ?? 0) > mostBytes) return null;
  if (!request.body) return Buffer.alloc(0);
  const chunks: Uint8Array[] = [];
  let bytes = 0;
  for await (const chunk of request.body as unknown as AsyncIterable<Uint8Array>) {
    bytes += chunk.byteLength;
    // A length may be left out, or not be true.
    if (bytes > mostBytes) return null;
    chunks.push(chunk);
  }
  return Buffer.concat(chunks);
}

const tooLarge = (mostBytes: number): Response =>
  problem({
    type: 'too-large',
    status: 413,
    title: 'Too large to send',
    detail: `The limit is ${(mostBytes / 1_000_000).toLocaleString('en')} MB at a time. Nothing was changed.`,
  });

/** Nothing of this programme is nested deeper. */
const MOST_DEPTH = 30;

/** The JSON of a request in a shape, or the answer that says what is wrong with it. */
export async function readBody<S extends z.ZodType>(
  request: Request,
  shape: S,
  mostBytes = MOST_BYTES,
): Promise<{ ok: true; value: z.infer<S> } | { ok: false; answer: Response }> {
  const no = (type: string, title: string, detail: string) => ({
    ok: false as const,
    answer: problem({ type, status: 400, title, detail }),
  });
  let json: unknown;
  try {
    const bytes = await readBytes(request, mostBytes);
    if (bytes === null) return { ok: false as const, answer: tooLarge(mostBytes) };
    const text = new TextDecoder().decode(bytes);
    if (jsonDepth(text) > MOST_DEPTH)
      return no('not-json', 'It could not be read', 'It is nested too deeply. Nothing was changed.');
    json = JSON.parse(text);
  } catch {
    return no(
      'not-json',
      'It could not be read',
      'It arrived incomplete or in the wrong format. Nothing was changed; try again.',
    );
  }
  const body = readShape(shape, json);
  return body.ok ? body : no('invalid', 'Something is missing or wrong', body.says);
}

type Change = (acting: Acting, context: APIContext) => Promise<unknown>;
/** The job that a request is part of, where it may come late from a bench; `named` is the one it says it is of. */
export type LateJob = (context: APIContext, named: number) => number | Promise<number>;

/** Runs a change as whoever acts, under the key of the intention, and answers JSON or problem details. */
async function answerChange(context: APIContext, key: string, run: Change, lateJob?: LateJob): Promise<Response> {
  try {
    const personId = await actingPerson(context, lateJob);
    const { person, now } = context.locals;
    const from = placeOfRequest(context);
    const acting = {
      personId,
      now,
      key,
      // Delivered under another's session: that is told with it.
      from: personId === person.id ? from : `${from}, sent by person ${person.id}`,
    };
    return Response.json((await run(acting, context)) ?? null);
  } catch (error) {
    return problemOf(error);
  }
}

const keyOf = (request: Request) => Key.safeParse(request.headers.get('idempotency-key'));
const noKey = (): Response =>
  problem({
    type: 'no-key',
    status: 400,
    title: 'Idempotency key missing',
    detail: 'Send an Idempotency-Key header with a new value for each change.',
  });

/**
 * An endpoint that changes something: reads JSON of a shape, knows who acts and by which idempotency key, and answers
 * JSON or problem details.
 */
export function changing<S extends z.ZodType>(
  shape: S,
  run: (acting: Acting, body: z.infer<S>, context: APIContext) => Promise<unknown>,
  { mostBytes, lateJob }: { mostBytes?: number; lateJob?: LateJob } = {},
): APIRoute {
  return async (context) => {
    const key = keyOf(context.request);
    if (!key.success) return noKey();
    const body = await readBody(context.request, shape, mostBytes);
    if (!body.ok) return body.answer;
    return answerChange(context, key.data, (acting) => run(acting, body.value, context), lateJob);
  };
}

/** A camera's picture before it is made smaller. */
const MOST_FILE_BYTES = 30_000_000;

/** As `changing`, for a file: its bytes are the body, what it is of stands in the query. */
export function changingBytes<S extends z.ZodType>(
  shape: S,
  run: (acting: Acting, sent: { query: z.infer<S>; bytes: Buffer }, context: APIContext) => Promise<unknown>,
  lateJob?: LateJob,
): APIRoute {
  return async (context) => {
    const key = keyOf(context.request);
    if (!key.success) return noKey();
    const query = readShape(shape, Object.fromEntries(context.url.searchParams));
    if (!query.ok)
      return problem({
        type: 'invalid',
        status: 400,
        title: 'Something is missing or wrong',
        detail: query.says,
      });
    const bytes = await readBytes(context.request, MOST_FILE_BYTES).catch(() => Buffer.alloc(0));
    if (bytes === null) return tooLarge(MOST_FILE_BYTES);
    const { value } = query;
    return answerChange(context, key.data, (acting) => run(acting, { query: value, bytes }, context), lateJob);
  };
}

/** Whose work on which job a bench delivers: "5.120". */
const LateFor = z.string().regex(/^\d{1,9}\.\d{1,9}$/);

/**
 * Who did it: whoever is signed in, or the one whose work on a job this browser delivers after somebody else has taken
 * the device. Only what is done at the bench can come late.
 * @throws UserError `stale-pass` when this browser may not, or no longer, deliver it
 */
async function actingPerson(context: APIContext, lateJob: LateJob | undefined): Promise<number> {
  const { locals, request, cookies } = context;
  const given = LateFor.safeParse(request.headers.get('late-for'));
  if (!given.success) return locals.person.id;
  const [personId = -1, jobId = -1] = given.data.split('.').map(Number);
  if (personId === locals.person.id) return personId;
  const browser = cookies.get(BROWSER)?.value;
  if (
    lateJob &&
    (await lateJob(context, jobId)) === jobId &&
    (await mayDeliverLate(locals.db, { browser, personId, jobId, now: locals.now }))
  )
    return personId;
  throw new UserError(
    'stale-pass',
    410,
    'Waiting for whoever did this',
    'Someone else did this on this device and has since signed out, or it is more than 14 days old. It stays on this device: they sign in here and send it again. Nothing was changed.',
  );
}

/** A whole number out of the path. */
export const pathId = (context: APIContext): number => {
  const id = Number(context.params.id);
  return Number.isInteger(id) ? id : -1;
};
