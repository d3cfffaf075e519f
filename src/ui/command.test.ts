import fc from 'fast-check';
import { expect, it } from 'vitest';
import { Command } from './command';
import type { Answer, ProblemAnswer } from './post';

const REFUSED: ProblemAnswer = { type: 'arvick:no', status: 422, title: 'No', detail: 'Not like this.' };
type Kind = 'done' | 'refused' | 'silent';

/** A server that counts what was done by key, and may do a thing while its answer is lost. */
function server() {
  const done = new Map<string, number>();
  let next: { kind: Kind; lost: boolean } = { kind: 'done', lost: false };
  const waiting: (() => void)[] = [];
  const send = async <T>(_: string, body: unknown, key = ''): Promise<Answer<T>> => {
    const { kind, lost } = next;
    await new Promise<void>((go) => waiting.push(go));
    if (kind === 'done' || (kind === 'silent' && lost)) done.set(key, body as number);
    if (kind === 'silent') return { ok: false, problem: null };
    return kind === 'done' ? { ok: true, value: body as T } : { ok: false, problem: REFUSED };
  };
  return {
    done,
    send: send as never,
    expect: (kind: Kind, lost: boolean) => {
      next = { kind, lost };
    },
    answer: () => {
      for (const go of waiting.splice(0)) go();
    },
  };
}

it('what is meant once is done once, whatever gets lost and however often it is pressed', async () => {
  const presses = fc.array(
    fc.record({
      body: fc.integer({ min: 1, max: 3 }),
      kind: fc.constantFrom<Kind>('done', 'refused', 'silent'),
      lost: fc.boolean(),
      times: fc.integer({ min: 1, max: 3 }),
    }),
    { minLength: 1, maxLength: 12 },
  );
  await fc.assert(
    fc.asyncProperty(presses, async (list) => {
      const far = server();
      let keys = 0;
      const command = new Command(far.send, () => `key-${++keys}`);
      /** Bodies somebody meant: a run of presses of one body up to the answer that came is one. */
      const meant: { body: number; mayBeDone: boolean }[] = [];
      let open: number | null = null;
      for (const p of list) {
        far.expect(p.kind, p.lost);
        const runs = Array.from({ length: p.times }, () => command.run<number>('/x', p.body));
        expect(command.state().busy).toBe(true);
        far.answer();
        const [first, ...rest] = await Promise.all(runs);
        expect(rest.every((r) => r === null)).toBe(true);
        expect(first).toBe(p.kind === 'done' ? p.body : null);
        if (open !== p.body) meant.push({ body: p.body, mayBeDone: false });
        const mine = meant.at(-1) as (typeof meant)[number];
        mine.mayBeDone ||= p.kind === 'done' || (p.kind === 'silent' && p.lost);
        open = p.kind === 'silent' ? p.body : null;
        expect(command.state().says).toBe(
          p.kind === 'done'
            ? null
            : p.kind === 'refused'
              ? REFUSED.detail
              : 'No answer from the server. Try again; it is recorded only once.',
        );
      }
      expect([...far.done.values()].sort()).toEqual(
        meant
          .filter((m) => m.mayBeDone)
          .map((m) => m.body)
          .sort(),
      );
    }),
  );
});

it('tells whoever listens, and is quiet when asked', async () => {
  const far = server();
  const command = new Command(far.send);
  const seen: boolean[] = [];
  const leave = command.subscribe(() => seen.push(command.state().busy));
  far.expect('refused', false);
  const run = command.run('/x', 1);
  command.quiet();
  expect(command.state().busy).toBe(true);
  far.answer();
  await run;
  expect(command.state().problem).toEqual(REFUSED);
  command.quiet();
  expect(command.state()).toEqual({ busy: false, problem: null, says: null });
  leave();
  expect(seen).toEqual([true, false, false]);
});
