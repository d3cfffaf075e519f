import { openBatch } from '../../../../server/bench/batch';
import { changing } from '../../../api/endpoint';
import { BatchShape } from '../../../api/shapes';

export const POST = changing(BatchShape, async (acting, body, { locals }) => {
  const { batchId } = await openBatch(locals.db, acting, body);
  return { batchId, location: `/bench/batch/${batchId}` };
});
