/** An answer that says why something was not done (RFC 9457). */
export interface ProblemAnswer {
  type: string;
  status: number;
  title: string;
  detail: string;
  [extra: string]: unknown;
}

export type Answer<T> = { ok: true; value: T } | { ok: false; problem: ProblemAnswer } | { ok: false; problem: null };

/** Nobody waits longer than this for an answer: a network may hang without ever saying no. */
const PATIENCE_MS = 20_000;
/** What the server works at for a while, and says so when it gives up. */
export const LONG_WORK_MS = 6 * 60_000;

/** Sends JSON. `problem` is null when no answer came, so that the caller may send the same key again. */
export async function post<T>(
  url: string,
  body: unknown,
  key?: string,
  more: Record<string, string> = {},
  patienceMs = PATIENCE_MS,
): Promise<Answer<T>> {
  try {
    const answer = await fetch(url, {
      method: 'POST',
      headers: { 'content-type': 'application/json', ...(key ? { 'idempotency-key': key } : {}), ...more },
      body: JSON.stringify(body),
      signal: AbortSignal.timeout(patienceMs),
    });
    const json = await answer.json();
    return answer.ok ? { ok: true, value: json as T } : { ok: false, problem: json as ProblemAnswer };
  } catch {
    return { ok: false, problem: null };
  }
}
