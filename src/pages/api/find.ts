import type { APIRoute } from 'astro';
import { mayGo } from '../../../contract/permissions';
import { find } from '../../../server/find/find';
import { problemOf } from '../../api/problem';

/** What some words mean: for the jump box as one types. */
export const GET: APIRoute = async ({ url, locals }) => {
  try {
    return Response.json(
      await find(locals.db, (url.searchParams.get('q') ?? '').slice(0, 80), (href) => mayGo(locals.person.role, href)),
    );
  } catch (error) {
    return problemOf(error);
  }
};
