import { UserError } from '../../server/errors';

/** What became of something: "done", or the type of the refusal. Whatever else is thrown is thrown on. */
export const outcomeOf = (p: Promise<unknown>): Promise<string> =>
  p.then(
    () => 'done',
    (e) => (e instanceof UserError ? e.type : Promise.reject(e)),
  );
