import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { expect, it } from 'vitest';
import { acting, NOW, smallProgramme } from '../../tests/support/small';
import { readChain } from '../audit/entries';
import { readPicture } from '../photos/files';
import { photosOf, stillThere } from '../photos/photos';
import { labelsOf } from '../print/labels';
import { editTrust } from '../programme/manage';
import { sayTeacherDay, teacherDay } from '../today/teacher';
import {
  endLabel,
  instrumentOfLabel,
  labelAddresses,
  nothingInIt,
  sayByLabel,
  takeUp,
  waitingWords,
  wordsOfInstrument,
} from './byLabel';

const at = { today: '2026-03-10', now: NOW, timeZone: 'UTC' };

async function withLabels() {
  const { db } = await smallProgramme();
  const trust = { address: 'https://strings.example', performance: 'desk', saidDays: 30, expectedVersion: 1 } as const;
  await editTrust(db, acting(), { ...trust, byLabel: true });
  const id = (await db('instrument').where({ tag: 'VN-1' }).first('id'))?.id as number;
  const token = ((await labelAddresses(db, [id], NOW))?.get(id) ?? '').split('/').at(-1) ?? '';
  const say = (more: Partial<Parameters<typeof sayByLabel>[1]> = {}, data?: string) =>
    sayByLabel(
      db,
      {
        token,
        wrong: 'broken',
        numbers: [1],
        text: '',
        who: '6 C',
        key: 'a-form-of-its-own',
        now: NOW,
        from: '10.0.0.9',
        picture: null,
        ...more,
      },
      data,
    );
  return { db, id, token, say };
}

it('what is said by a label changes nothing until somebody has taken it up, and then it is theirs', async () => {
  const { db, id, say } = await withLabels();
  const first = await say();
  // The same form again, as from a second press.
  expect(await say()).toEqual(first);
  expect(await db('report')).toHaveLength(0);
  expect(await db('instrument_state').where({ instrument_id: id }).first()).toMatchObject({ broken: 0 });
  expect(await wordsOfInstrument(db, id, '2026-03-01')).toMatchObject([{ wrong: 'broken', became: 'waits' }]);
  const [waiting] = await waitingWords(db, 5);
  await takeUp(db, acting(2), { id: first.id, expectedVersion: waiting?.version as number });
  expect(await db('report').first()).toMatchObject({ person_id: 2, kind: 'broken', numbers: '[1]' });
  expect(await db('instrument_state').where({ instrument_id: id }).first()).toMatchObject({ broken: 1 });
  expect(await wordsOfInstrument(db, id, '2026-03-01')).toMatchObject([{ became: 'taken' }]);
  await expect(takeUp(db, acting(1), { id: first.id, expectedVersion: 1 })).rejects.toThrow(/already dealt with/);
  expect(await waitingWords(db, 5)).toEqual([]);
  // Nobody said it, and the chain of who did what holds.
  expect(await db('audit').where({ action: 'label.said' })).toMatchObject([{ person_id: 0, from_where: '10.0.0.9' }]);
  expect(await readChain(db)).toMatchObject({ brokenAt: null });
});

it('a code that was ended, or labels that nobody allows, lead nowhere; the next label has another code', async () => {
  const { db, id, token, say } = await withLabels();
  expect((await instrumentOfLabel(db, token))?.tag).toBe('VN-1');
  expect(await instrumentOfLabel(db, `${token.slice(0, -1)}x`)).toBeNull();
  await endLabel(db, acting(), { tag: 'VN-1' });
  expect(await instrumentOfLabel(db, token)).toBeNull();
  await expect(say()).rejects.toThrow(/not in this programme/);
  const [label] = await labelsOf(db, { tags: ['VN-1'], say: 'place' } as never, at);
  expect(label?.code).toMatch(/^https:\/\/strings\.example\/r\/[\w-]{22}$/);
  expect(label?.code).not.toContain(token);
  const trust = { address: '', byLabel: false, performance: 'desk', saidDays: 30, expectedVersion: 2 } as const;
  await editTrust(db, acting(), trust);
  expect(await labelAddresses(db, [id], NOW)).toBeNull();
  expect(await labelsOf(db, { tags: ['VN-1'], say: 'place' } as never, at)).toMatchObject([{ code: 'VN-1' }]);
});

it('a list cannot be filled from a classroom, and what is no picture is refused before anything is kept', async () => {
  const { say } = await withLabels();
  for (const n of [1, 2, 3, 4]) await say({ key: `form-number-${n}` });
  await expect(say({ key: 'form-number-5' })).rejects.toThrow(/still waiting to be read/);
  const other = await withLabels();
  await expect(other.say({ picture: new TextEncoder().encode('<svg onload=x>') })).rejects.toThrow(/Not a photo/);
  expect(await other.db('said')).toHaveLength(0);
});

it('a photograph waits with the words, comes to the instrument when they are taken up, and goes with nothing in it', async () => {
  const { db, id, say } = await withLabels();
  const data = mkdtempSync(join(tmpdir(), 'arvick-small-'));
  const picture = await sharp({ create: { width: 900, height: 40, channels: 3, background: '#a33' } })
    .png()
    .toBuffer();
  const { id: said } = await say({ picture, wrong: 'crack', numbers: [] }, data);
  const hash = (await db('said').first('hash'))?.hash as string;
  expect(await stillThere(db, [hash])).toEqual(new Set([hash]));
  expect((await sharp((await readPicture(hash, data)) as Buffer).metadata()).format).toBe('jpeg');
  const { caseId } = await takeUp(db, acting(), { id: said, expectedVersion: 1 }, data);
  expect(caseId).not.toBeNull();
  expect(await photosOf(db, id, 5)).toMatchObject([{ hash, by: 'Ann Ex' }]);
  expect(await wordsOfInstrument(db, id, '2026-03-01')).toMatchObject([{ became: 'with-repairer' }]);
  const { id: again } = await say({ picture, wrong: 'case', numbers: [], key: 'another-form' }, data);
  await nothingInIt(db, acting(), { id: again, expectedVersion: 1 });
  expect(await db('said').where({ id: again }).first()).toMatchObject({ hash: null, taken_by: 1 });
});

it('a teacher is told of what is in the way, and of what became of their words', async () => {
  const { db, say } = await withLabels();
  const day = () => teacherDay(db, { id: 1, placeId: 1 }, at);
  expect(sayTeacherDay(await day(), at.today)).toBe('Everything here can be played');
  await takeUp(db, acting(), { id: (await say()).id, expectedVersion: 1 });
  const told = await day();
  expect(told.notReady).toEqual([{ tag: 'VN-1', says: 'Broken string: not ready', settling: false }]);
  expect(sayTeacherDay(told, at.today)).toMatch(/^1 of \d here cannot be played yet$/);
});
