import { expect, it } from 'vitest';
import { batchesOf, type Workpiece } from './batch';

const piece = (
  tag: string,
  family: 'ukulele' | 'cello' | 'steel-acoustic',
  dueOn: string,
  urgent = false,
): Workpiece => ({
  tag,
  build: {
    family,
    bridge: family === 'cello' ? 'floating' : 'fixed',
    tailEnd: 'uke-tie',
    tuner: 'plain-post',
    extras: [],
  },
  method: { atATime: family === 'ukulele' ? 1 : 'all' },
  dueOn,
  urgent,
  minutes: 20,
});

it('batches like with like, keeps floating bridges alone, and puts the most urgent first', () => {
  const batches = batchesOf([
    piece('S2', 'steel-acoustic', '2026-03-04'),
    piece('C1', 'cello', '2026-03-01'),
    piece('U1', 'ukulele', '2026-03-09'),
    piece('C2', 'cello', '2026-03-02'),
    piece('S1', 'steel-acoustic', '2026-03-03'),
    piece('U2', 'ukulele', '2026-03-10', true),
  ]);
  expect(batches.map((b) => b.pieces.map((p) => p.tag).join(' '))).toEqual(['U2 U1', 'C1', 'C2', 'S1 S2']);
  expect(batches.map((b) => b.way)).toEqual(['string-by-string', 'alone', 'alone', 'phase-by-phase']);
  expect(batches[3]?.minutes).toBe(40);
});
