import { BuildShape } from '../../../../../contract/fleet';
import { tagPath } from '../../../../../core/instruments/tag';
import { correctBuild } from '../../../../../server/fleet/build';
import { changing } from '../../../../api/endpoint';

export const POST = changing(BuildShape, async (acting, body, { locals, params }) => {
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
  return { ...done, location: `/instruments/${tagPath(tag)}` };
});
