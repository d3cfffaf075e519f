import { requestNow } from '../../server/context';
import { UserError } from '../../server/errors';
import { log } from '../../server/log';

export interface Problem {
  type: string;
  status: number;
  title: string;
  detail: string;
  [extra: string]: unknown;
}

/** An RFC 9457 problem details answer. */
export function problem(p: Problem): Response {
  return new Response(JSON.stringify({ ...p, type: `arvick:${p.type}` }), {
    status: p.status,
    headers: { 'content-type': 'application/problem+json' },
  });
}

/** The answer to an error: what a user can do about it, or that it is ours. */
export function problemOf(error: unknown): Response {
  if (error instanceof UserError) {
    return problem({
      ...error.extra,
      type: error.type,
      status: error.status,
      title: error.title,
      detail: error.detail,
    });
  }
  const code = (error as { code?: string }).code ?? '';
  if (code === 'SQLITE_FULL' || code === 'ENOSPC' || code.startsWith('SQLITE_IOERR')) {
    return problem({
      type: 'disk-full',
      status: 507,
      title: 'Nothing was saved: the disk is full or cannot be written to',
      detail: 'Free some space on the machine that runs Arvick, then try again. What you entered is still here.',
    });
  }
  if (code.startsWith('SQLITE_BUSY') || code.startsWith('SQLITE_LOCKED'))
    return problem({
      type: 'busy',
      status: 503,
      title: 'Another program is writing to the data',
      detail: 'Nothing was saved. What you entered is still here; try again in a moment.',
    });
  // A rule of the database that no use case has said in its own words.
  if (code === 'SQLITE_CONSTRAINT_FOREIGNKEY')
    return problem({
      type: 'not-found',
      status: 404,
      title: 'Something you chose is no longer there',
      detail: 'It is not in this programme, or has been removed. Reload the page and choose again.',
    });
  if (code === 'SQLITE_CONSTRAINT_UNIQUE' || code === 'SQLITE_CONSTRAINT_PRIMARYKEY')
    return problem({
      type: 'there-already',
      status: 409,
      title: 'Already recorded',
      detail: 'This has been recorded before. Reload the page to see it.',
    });
  log.error(error, 'Unexpected error');
  return problem({
    type: 'unexpected',
    status: 500,
    title: 'Something went wrong in Arvick',
    detail: `Nothing was saved. Try again; if it happens again, give this number to whoever runs the server: ${requestNow()?.request ?? 'none'}.`,
  });
}
