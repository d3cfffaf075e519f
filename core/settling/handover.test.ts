import { expect, it } from 'vitest';
import { FAMILIES, SIZES } from '../instruments/build';
import { defaultBuild } from '../instruments/defaults';
import { CORES_OF } from '../instruments/validity';
import { fitCreep } from './creep';
import { handoverFor } from './handover';

it('tells every player what to expect and when to call, and never a part the instrument lacks', () => {
  for (const family of FAMILIES)
    for (const core of CORES_OF[family]) {
      const build = defaultBuild(family, SIZES[family][0] as string);
      const note = handoverFor(build, { core, fit: fitCreep(core, []) });
      expect(note.expect).toMatch(/on the first day .* This is normal/);
      const words = [...note.tune, ...note.call].join(' ');
      expect(/peg/.test(words)).toBe(build.head === 'pegbox');
      expect(/leans/.test(words)).toBe(build.bridge === 'floating');
    }
});

it('expects more of gut than of steel (common practice, no source)', () => {
  const first = (core: 'steel' | 'gut') =>
    handoverFor(defaultBuild('violin', '4/4'), { core, fit: fitCreep(core, []) }).expect;
  expect(first('steel')).not.toContain('a tone');
  expect(first('gut')).toMatch(/about a (tone|semitone)/);
});
