import { z } from 'zod';
import { num } from '../../../../../contract/basics';
import { completeVisit } from '../../../../../server/today/today';
import { changing, pathId } from '../../../../api/endpoint';

/** A form sends each string's drop as `flat-6`; left empty, nobody looked. */
const Flat = z.union([z.literal('').transform(() => undefined), num(z.number().min(-100).max(1200))]).optional();
const Shape = z.object({ expectedVersion: num(z.int()), note: z.string().max(1000).default('') }).catchall(Flat);

export const POST = changing(Shape, (acting, body, context) => {
  const { expectedVersion, note, ...rest } = body;
  const readings = Object.entries(rest).flatMap(([name, value]) => {
    const [, number] = /^flat-(\d{1,2})$/.exec(name) ?? [];
    return number && typeof value === 'number' ? [{ number: Number(number), flatCents: value }] : [];
  });
  return completeVisit(context.locals.db, acting, { visitId: pathId(context), expectedVersion, note, readings });
});
