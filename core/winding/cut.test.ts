import { expect, it } from 'vitest';
import { defaultBuild } from '../instruments/defaults';
import { HOUSE_METHODS } from '../procedures/method';
import { stringNumbers } from '../procedures/numbers';
import { halfReaches, neededLengthMm } from './cut';

it('adds up what a string takes from tail to trimmed end', () => {
  expect(
    neededLengthMm({ tailMm: 70, speakingLengthMm: 381, nutToPostMm: 74, slackMm: 25.4, postDiameterMm: 6.5 }),
  ).toBeCloseTo(568.9, 9);
});

it('lets half of a 1.2 m string serve a concert ukulele, but not the inner strings of a tenor', () => {
  const needs = (size: string, number: number) => {
    const build = defaultBuild('ukulele', size);
    const position = build.positions.find((p) => p.number === number);
    if (!position) throw new Error('no such string');
    const string = {
      number,
      name: '',
      gaugeMm: 0.6,
      coreMm: 0.6,
      core: 'fluorocarbon' as const,
      wound: false,
      massKgPerM: 0.0005,
      lengthMm: 1200,
      half: true,
    };
    return stringNumbers(build, HOUSE_METHODS.ukulele, position, string).neededLengthMm;
  };
  for (const n of [1, 2, 3, 4]) expect(halfReaches(1200, needs('concert', n))).toBe(true);
  expect(halfReaches(1200, needs('tenor', 3))).toBe(false);
});
