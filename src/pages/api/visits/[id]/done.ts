import { VisitDoneShape } from '../../../../../contract/bench';
import { completeVisit } from '../../../../../server/today/today';
import { changing, pathId } from '../../../../api/endpoint';

export const POST = changing(VisitDoneShape, (acting, body, context) => {
  const { expectedVersion, note, ...rest } = body;
  const readings = Object.entries(rest).flatMap(([name, value]) => {
    const [, number] = /^flat-(\d{1,2})$/.exec(name) ?? [];
    return number && typeof value === 'number' ? [{ number: Number(number), flatCents: value }] : [];
  });
  return completeVisit(context.locals.db, acting, { visitId: pathId(context), expectedVersion, note, readings });
});
