import type { APIContext, APIRoute } from 'astro';
import type { z } from 'zod';
import { CodeShape, DemoShape, SignInShape, SwitchShape } from '../../../../contract/access';
import { signIn, takeBench, useCode } from '../../../../server/access/accounts';
import { endLate } from '../../../../server/access/late';
import { endSession } from '../../../../server/access/sessions';
import { refused } from '../../../../server/errors';
import { loadPeople } from '../../../../server/programme/programme';
import { BROWSER, dropSession, enter, from, keepSession, whoAsks } from '../../../api/access';
import { readBody } from '../../../api/endpoint';
import { problem, problemOf } from '../../../api/problem';

/** Reads what somebody enters with; whatever session there was ends, so that none can be put upon them. */
const entering =
  <S extends z.ZodType>(
    shape: S,
    run: (body: z.infer<S>, context: APIContext) => Promise<{ token: string; until: number } | null>,
  ): APIRoute =>
  async (context) => {
    const body = await readBody(context.request, shape, 10_000);
    if (!body.ok) return body.answer;
    try {
      const before = await whoAsks(context);
      const begun = await run(body.value, context);
      if (before) await endSession(context.locals.db, before.id);
      if (begun) keepSession(context, begun.token, begun.until);
      const next = (body.value as { next?: string }).next ?? '/';
      return Response.json({ location: next });
    } catch (error) {
      return problemOf(error);
    }
  };

const ACTIONS: Record<string, APIRoute> = {
  in: entering(SignInShape, async (body, context) => signIn(context.locals.db, body, await from(context))),
  code: entering(CodeShape, async (body, context) => useCode(context.locals.db, body, await from(context))),
  switch: entering(SwitchShape, async (body, context) => takeBench(context.locals.db, body, await from(context))),
  // The demo's people enter by a press: everything there is invented.
  demo: entering(DemoShape, async (body, context) => {
    const { db, programme } = context.locals;
    const person = (await loadPeople(db)).find((p) => p.id === body.personId);
    if (!programme.isDemo || !person)
      throw refused('no-demo', 'Only in the demo', 'Sign in with a name and a password.');
    await enter(context, person.id);
    return null;
  }),
  out: async (context) => {
    const session = await whoAsks(context);
    if (session) {
      await endSession(context.locals.db, session.id);
      await endLate(context.locals.db, session.personId, context.cookies.get(BROWSER)?.value);
    }
    dropSession(context);
    return Response.json({ location: '/sign-in' });
  },
};

export const POST: APIRoute = (context) => {
  const name = context.params.action ?? '';
  const run = Object.hasOwn(ACTIONS, name) ? ACTIONS[name] : undefined;
  return run
    ? run(context)
    : problem({
        type: 'no-action',
        status: 404,
        title: 'No such action',
        detail: 'Use in, out, code or switch.',
      });
};
