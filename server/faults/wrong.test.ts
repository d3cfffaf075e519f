import { expect, it } from 'vitest';
import { WRONG_IDS, WRONGS } from '../../core/faults/wrongs';
import { acting, NOW, smallProgramme } from '../../tests/support/small';
import { todayAt } from '../today/today';
import { awaySince, sendAway } from './away';
import { closeCase, waitingCases } from './cases';
import { sayWrong } from './wrong';

const say = { tag: 'vn-1', numbers: [] as number[], text: '' };

it('what is said of the strings makes the instrument due; what is said of anything else waits for whoever is qualified', async () => {
  const { db } = await smallProgramme();
  const { location } = await sayWrong(db, acting(), {
    ...say,
    wrong: 'broken',
    numbers: [1, 9],
    text: 'snapped in class',
  });
  expect(location).toBe('/report?said=broken&tag=VN-1');
  expect(await db('report').first()).toMatchObject({
    kind: 'broken',
    numbers: '[1]',
    text: 'A string is broken: snapped in class',
  });
  expect(await db('instrument_state').where({ tag: 'VN-1' }).first()).toMatchObject({ broken: 1, due_by: 'broken' });
  await sayWrong(db, acting(), { ...say, tag: 'UK-1', wrong: 'crack', text: 'along the side' });
  expect(await waitingCases(db, 1, 5)).toMatchObject([
    { tag: 'UK-1', to: 'a qualified repairer', says: WRONGS.crack.name },
  ]);
  await expect(sayWrong(db, acting(), { ...say, wrong: 'electrics' })).rejects.toThrow(
    /cannot happen on this instrument/,
  );
  // Each of them says what to do meanwhile, and none asks for more than a layman can do.
  for (const id of WRONG_IDS) expect(WRONGS[id].meanwhile, id).toMatch(/\w{3}.*\.$/);
});

it('at the repairer’s it is on nobody’s list, and it is back with the end of its case', async () => {
  const { db } = await smallProgramme();
  const at = { today: '2026-03-10', now: NOW, horizon: '2026-06-10' };
  const listed = async () => (await todayAt(db, 1, at)).batches.flatMap((b) => b.pieces.map((piece) => piece.tag));
  expect(await listed()).toContain('UK-1');
  await sayWrong(db, acting(), { ...say, tag: 'UK-1', wrong: 'crack' });
  const [waiting] = await waitingCases(db, 1, 5);
  const caseId = waiting?.id as number;
  await sendAway(db, acting(), { caseId, expectedVersion: 1 });
  await expect(sendAway(db, acting(), { caseId, expectedVersion: 1 })).rejects.toThrow(/changed this case/);
  expect(await awaySince(db, caseId, '2026-03-10')).toBe('2026-03-10');
  expect(await listed()).not.toContain('UK-1');
  await closeCase(db, acting(), { caseId, expectedVersion: 2, checkedBy: 'Mo Fel', found: 'glued' });
  expect(await awaySince(db, caseId, '2026-03-10')).toBeNull();
  expect(await listed()).toContain('UK-1');
});
