import type { APIRoute } from 'astro';
import { LabelsShape } from '../../../contract/print';
import { labelSheetBeside } from '../../../server/print/beside';
import { labelsOf } from '../../../server/print/labels';
import { problemOf } from '../../api/problem';

/** A sheet of labels to print, as exact as the sheet is. */
export const GET: APIRoute = async ({ url, locals }) => {
  try {
    const { db, today, now, programme } = locals;
    const { tags, say, ...sheet } = LabelsShape.parse(Object.fromEntries(url.searchParams));
    const labels = await labelsOf(db, { tags, say }, { today, now, timeZone: programme.timeZone });
    return new Response(new Uint8Array(await labelSheetBeside(labels, sheet, `Labels, ${programme.name}`)), {
      headers: {
        'content-type': 'application/pdf',
        'content-disposition': 'inline; filename="labels.pdf"',
        'cache-control': 'no-store',
      },
    });
  } catch (error) {
    return problemOf(error);
  }
};
