import type { APIRoute } from 'astro';
import { fleetQueryOf } from '../../../../contract/fleet';
import { SUBJECTS, type Subject } from '../../../../core/intake/columns';
import { notFound } from '../../../../server/errors';
import { listBeside } from '../../../../server/export/beside';
import { wholeProgramme } from '../../../../server/export/whole';
import { fleetIds } from '../../../../server/fleet/list';
import { problem, problemOf } from '../../../api/problem';

const TYPES = {
  csv: 'text/csv; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
};

/** What is taken along: `instruments.csv` and the like as a list, filtered as the fleet is; `programme.json` is all of it. */
export const GET: APIRoute = async ({ params, url, locals }) => {
  const { db, today, now, horizon } = locals;
  const file = params.file ?? '';
  const headers = (type: string) => ({
    'content-type': type,
    'content-disposition': `attachment; filename="${today}-${file}"`,
    'cache-control': 'no-store',
  });
  try {
    if (file === 'programme.json' && locals.person.role !== 'coordinator')
      return problem({
        type: 'not-yours',
        status: 403,
        title: 'Not allowed for your role',
        detail: 'Only a coordinator can export the whole programme, with everyone’s names and work.',
      });
    if (file === 'programme.json')
      return new Response(wholeProgramme(db), { headers: headers('application/json; charset=utf-8') });
    const [name, kind] = file.split('.') as [Subject, keyof typeof TYPES];
    if (!SUBJECTS.includes(name) || !Object.hasOwn(TYPES, kind)) return problemOf(notFound(`“${file}”`));
    const only =
      url.searchParams.size > 0 ? await fleetIds(db, fleetQueryOf(url.searchParams), { today, now, horizon }) : null;
    return new Response(new Uint8Array(await listBeside(db, name, kind, only)), { headers: headers(TYPES[kind]) });
  } catch (error) {
    return problemOf(error);
  }
};
