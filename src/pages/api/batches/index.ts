import { BatchShape } from '../../../../contract/bench';
import { openBatch } from '../../../../server/bench/batch';
import { changing } from '../../../api/endpoint';

export const POST = changing(BatchShape, async (acting, body, { locals }) => {
  const { batchId } = await openBatch(locals.db, acting, body);
  return { batchId, location: `/bench/batch/${batchId}` };
});
