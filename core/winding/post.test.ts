import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { HEADS } from '../instruments/build';
import { lengthForTurns, predictWinds, tightens, turnsFor } from './post';

const mm = (min: number, max: number) => fc.double({ min, max, noNaN: true });

describe('winds', () => {
  it('go from slack to turns and back', () => {
    fc.assert(
      fc.property(mm(1, 120), mm(4, 20), mm(0.2, 3), (slack, post, gauge) => {
        expect(lengthForTurns(turnsFor(slack, post, gauge), post, gauge)).toBeCloseTo(slack, 9);
      }),
    );
  });

  it('are judged by room before number, and grow with slack', () => {
    const at = (slackMm: number, roomUnderHoleMm = 6) =>
      predictWinds({ slackMm, elasticMm: 0, postDiameterMm: 6, roomUnderHoleMm, gaugeMm: 1, least: 1.5, most: 4 });
    expect(at(10).verdict).toBe('too-few');
    expect(at(45).verdict).toBe('good');
    expect(at(110).verdict).toBe('too-many');
    expect(at(110, 3).verdict).toBe('no-room');
    expect(at(60).turns).toBeGreaterThan(at(40).turns);
  });

  it('count what a soft string gives on the way to pitch', () => {
    const p = { slackMm: 25, postDiameterMm: 6.5, roomUnderHoleMm: 8, gaugeMm: 0.65, least: 1.5, most: 4 };
    expect(predictWinds({ ...p, elasticMm: 0 }).verdict).toBe('too-few');
    expect(predictWinds({ ...p, elasticMm: 25 }).verdict).toBe('good');
  });
});

describe('direction', () => {
  it('is mirrored on a left-handed instrument, on every head and side', () => {
    const flip = { clockwise: 'anticlockwise', anticlockwise: 'clockwise', 'over-the-top': 'over-the-top' };
    for (const head of HEADS)
      for (const side of ['bass', 'treble'] as const) {
        expect(tightens(head, side, 'left')).toBe(flip[tightens(head, side, 'right')]);
      }
  });

  it('is anticlockwise on the bass side, clockwise on the treble side (common practice, no source)', () => {
    expect(tightens('split-sides', 'bass', 'right')).toBe('anticlockwise');
    expect(tightens('split-sides', 'treble', 'right')).toBe('clockwise');
    expect(tightens('in-line', 'bass', 'right')).toBe('anticlockwise');
    expect(tightens('slotted', 'treble', 'right')).toBe('over-the-top');
  });
});
