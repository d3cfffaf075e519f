import { expect, it } from 'vitest';
import { smallProgramme } from '../../tests/support/small';
import { find } from './find';

it('finds instruments, people, strings, places and pages by part of a word; nothing by what nobody has', async () => {
  const { db } = await smallProgramme();
  await db('place').insert({ name: 'Hàllow Bay', is_store: false });
  const first = async (q: string) => (await find(db, q))[0];
  expect(await first('uk1')).toMatchObject({ kind: 'instrument', title: 'UK-1' });
  expect(await first('uke')).toMatchObject({ kind: 'instrument' });
  expect(await first('fiddle')).toMatchObject({ title: 'VN-1' });
  expect(await first('light 12')).toMatchObject({ kind: 'product', title: 'Fulmar light 12–53' });
  expect(await first('hallow')).toMatchObject({ kind: 'place', title: 'Hàllow Bay' });
  expect(await first('ben')).toMatchObject({ kind: 'person', title: 'Ben Wy' });
  expect(await first('import')).toMatchObject({ kind: 'page', title: 'Import a list' });
  // A slip of the keys, where nothing is spelled like that.
  expect(await first('calculater')).toMatchObject({ title: 'Calculator' });
  expect(await find(db, 'zzqqxx')).toEqual([]);
  expect(await find(db, ' % ')).toEqual([]);
});
