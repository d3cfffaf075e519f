import type { APIContext, APIRoute } from 'astro';
import type { z } from 'zod';
import type { Acting } from '../../server/db/change';
import { changing } from './endpoint';
import { problem } from './problem';

/** One thing that can be done to something: the shape of its request and what it runs. */
interface Action<S extends z.ZodType> {
  shape: S;
  run: (acting: Acting, body: z.infer<S>, context: APIContext) => Promise<unknown>;
}

/** Ties a shape to what runs with it, so that the body is known in there. */
export const action = <S extends z.ZodType>(shape: S, run: Action<S>['run'], mostBytes?: number): APIRoute =>
  changing(shape, run, mostBytes === undefined ? {} : { mostBytes });

/** An endpoint for several actions by the last part of its path. */
export const actions =
  (known: Record<string, APIRoute>): APIRoute =>
  (context) => {
    const name = context.params.action ?? '';
    const run = Object.hasOwn(known, name) ? known[name] : undefined;
    return run
      ? run(context)
      : problem({
          type: 'no-action',
          status: 404,
          title: 'No such action',
          detail: `Known actions: ${Object.keys(known).join(', ')}.`,
        });
  };
