import { z } from 'zod';
import { num } from '../../../../contract/basics';
import { FAMILIES } from '../../../../core/instruments/build';
import { addInstrument } from '../../../../server/fleet/add';
import { changing } from '../../../api/endpoint';

const Shape = z.object({
  tag: z
    .string()
    .trim()
    .min(1, 'Give it a tag')
    .max(20)
    .regex(/^[A-Za-z0-9-]+$/, 'letters, digits and hyphens only'),
  family: z.enum(FAMILIES),
  size: z.string(),
  placeId: num(z.int()),
  holder: z.string().trim().max(60).default(''),
  houseSetId: z.union([z.literal('suggest'), z.literal('none').transform(() => null), num(z.int())]),
  hoursPerWeek: num(z.number().min(0).max(80)),
});

export const POST = changing(Shape, async (acting, body, { locals }) => {
  const { hoursPerWeek, ...rest } = body;
  const use = [{ fromDay: locals.today, toDay: null, hoursPerWeek, source: 'typed' }];
  const added = await addInstrument(locals.db, acting, { ...rest, use, note: '' });
  return { ...added, location: `/instruments/${added.tag}` };
});
