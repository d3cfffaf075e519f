import { NewInstrumentShape } from '../../../../contract/fleet';
import { tagPath } from '../../../../core/instruments/tag';
import { addInstrument } from '../../../../server/fleet/add';
import { changing } from '../../../api/endpoint';

export const POST = changing(NewInstrumentShape, async (acting, body, { locals }) => {
  const { hoursPerWeek, ...rest } = body;
  const use = [{ fromDay: locals.today, toDay: null, hoursPerWeek, source: 'typed' }];
  const added = await addInstrument(locals.db, acting, { ...rest, use, note: '' });
  return { ...added, location: `/instruments/${tagPath(added.tag)}` };
});
