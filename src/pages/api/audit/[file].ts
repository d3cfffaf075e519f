import type { APIRoute } from 'astro';
import { AuditShape } from '../../../../contract/people';
import { auditLines } from '../../../../server/audit/list';
import { namesFile } from '../../../../server/audit/subject';
import { notFound } from '../../../../server/errors';
import { streamOf } from '../../../../server/export/whole';
import { problemOf } from '../../../api/problem';

/** Who did what as `who-did-what.jsonl`, filtered as its page is; what stands under a name as `name.json`. */
export const GET: APIRoute = async ({ params, url, locals }) => {
  const { db, programme, today } = locals;
  const file = params.file ?? '';
  const query = Object.fromEntries(url.searchParams);
  const headers = (type: string) => ({
    'content-type': type,
    'content-disposition': `attachment; filename="${today}-${file}"`,
    'cache-control': 'no-store',
  });
  try {
    if (file === 'who-did-what.jsonl')
      return new Response(streamOf(auditLines(db, AuditShape.parse(query), programme.timeZone)), {
        headers: headers('application/jsonl; charset=utf-8'),
      });
    if (file === 'name.json')
      return new Response(streamOf(namesFile(db, String(query.name ?? ''))), {
        headers: headers('application/json; charset=utf-8'),
      });
    return problemOf(notFound(`“${file}”`));
  } catch (error) {
    return problemOf(error);
  }
};
