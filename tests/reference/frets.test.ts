import { describe, expect, it } from 'vitest';
import { predictWinds } from '../../core/winding/post';
import { fretDistanceMm, slackMm } from '../../core/winding/slack';

const on = {
  scaleMm: 628.65,
  postSpacingMm: 38,
  postDiameterMm: 8,
  gaugeMm: 0.3302,
  pairFromOutside: 0,
  beyondPostMm: 200,
};

describe('fret distances (fret law: L (1 − 2^(−n/12)))', () => {
  it('give slack, turns and stack of a fret and a half on an 8 mm post', () => {
    const slack = slackMm({ kind: 'first-fret', times: 1.5 }, on);
    expect(slack).toBeCloseTo(52.92512, 3);
    const winds = predictWinds({
      slackMm: slack,
      elasticMm: 0,
      postDiameterMm: 8,
      roomUnderHoleMm: 6,
      gaugeMm: 0.3302,
      least: 2,
      most: 4,
    });
    expect(winds.turns).toBeCloseTo(2.02235, 3);
    expect(winds.stackMm).toBeCloseTo(0.66778, 3);
  });

  it('put the octave at half the scale', () => {
    expect(fretDistanceMm(648, 12)).toBeCloseTo(324, 9);
  });

  it('tell the two readings of a fret and a half apart', () => {
    const halfway = slackMm({ kind: 'to-fret', fret: 1.5 }, on);
    expect(halfway).toBeCloseTo((fretDistanceMm(628.65, 1) + fretDistanceMm(628.65, 2)) / 2, 9);
    expect(halfway).toBeLessThan(slackMm({ kind: 'first-fret', times: 1.5 }, on));
  });
});

describe('common practice, no source', () => {
  it('one fret is about 36 mm on a 648 mm scale', () => {
    expect(Math.round(fretDistanceMm(648, 1))).toBe(36);
  });

  it('one fret of slack shows 2 to 3 winds on a 6 mm post, thin string or thick', () => {
    for (const [gaugeMm, elasticMm] of [
      [0.3, 5],
      [0.4, 4],
      [0.8, 3],
      [1.35, 2],
    ] as const) {
      const { coils } = predictWinds({
        slackMm: fretDistanceMm(648, 1),
        elasticMm,
        postDiameterMm: 6,
        roomUnderHoleMm: 6,
        gaugeMm,
        least: 1.5,
        most: 4,
      });
      expect(coils).toBeGreaterThanOrEqual(2);
      expect(coils).toBeLessThanOrEqual(3);
    }
  });
});
