import { z } from 'zod';
import { num } from '../../../../../contract/basics';
import {
  BRIDGES,
  EXTRAS,
  FINGERBOARDS,
  HEADS,
  STRING_ENDS,
  TAIL_ENDS,
  TUNERS,
} from '../../../../../core/instruments/build';
import { correctBuild } from '../../../../../server/fleet/build';
import { changing } from '../../../../api/endpoint';

const Measure = z.union([z.literal('').transform(() => undefined), num(z.number().min(0.1).max(600))]).optional();

const Shape = z
  .object({
    expectedVersion: num(z.int()),
    handedness: z.enum(['right', 'left']),
    scaleMm: num(z.number().min(150).max(1300)),
    head: z.enum(HEADS),
    tuner: z.enum(TUNERS),
    tailEnd: z.enum(TAIL_ENDS),
    bridge: z.enum(BRIDGES),
    stringEnd: z.enum(STRING_ENDS),
    fingerboard: z.enum(FINGERBOARDS),
    extras: z
      .string()
      .default('')
      .transform((text) => text.split(',').filter(Boolean))
      .pipe(z.array(z.enum(EXTRAS))),
    diameterMm: num(z.number().min(2).max(40)),
    roomUnderHoleMm: num(z.number().min(1).max(60)),
    spacingMm: num(z.number().min(5).max(90)),
    notedLengthMm: z.union([z.literal('').transform(() => null), num(z.number().min(100).max(1300))]).optional(),
  })
  // Measures of single strings: post-6, slot-6.
  .catchall(Measure);

export const POST = changing(Shape, async (acting, body, { locals, params }) => {
  const { expectedVersion, diameterMm, roomUnderHoleMm, spacingMm, notedLengthMm, ...rest } = body;
  const { handedness, scaleMm, head, tuner, tailEnd, bridge, stringEnd, fingerboard, extras, ...measures } = rest;
  const parts = { handedness, scaleMm, head, tuner, tailEnd, bridge, stringEnd, fingerboard, extras };
  const strings: Record<number, { nutToPostMm?: number; nutSlotMm?: number | null }> = {};
  for (const [name, value] of Object.entries(measures)) {
    const [, what, number] = /^(post|slot)-(\d{1,2})$/.exec(name) ?? [];
    if (!what) continue;
    strings[Number(number)] = {
      ...strings[Number(number)],
      ...(what === 'slot' ? { nutSlotMm: value ?? null } : value === undefined ? {} : { nutToPostMm: value }),
    };
  }
  const tag = params.tag ?? '';
  const post = { diameterMm, roomUnderHoleMm, spacingMm };
  const done = await correctBuild(locals.db, acting, {
    tag,
    expectedVersion,
    build: { ...parts, post },
    ...(notedLengthMm === undefined ? {} : { notedLengthMm }),
    strings,
  });
  return { ...done, location: `/instruments/${tag}` };
});
