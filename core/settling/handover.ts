import type { Build } from '../instruments/build';
import { isBowed } from '../instruments/build';
import { SAFETY, type SafetyTopicId } from '../safety/topics';
import type { CoreMaterial } from '../strings/materials';
import { MATERIAL_NAMES } from '../strings/materials';
import { type CreepFit, driftCents } from './creep';

/** What a player should know about an instrument that has just been strung. */
export interface Handover {
  /** What drop to expect, and that it is no fault. */
  expect: string;
  tune: string[];
  call: string[];
}

/** A danger, what to do with it now, and to call. */
const callFor = (topic: SafetyTopicId): string => `${SAFETY[topic].name}. ${SAFETY[topic].meanwhile} Then call.`;

const say = (cents: number): string =>
  cents >= 150 ? 'about a tone' : cents >= 75 ? 'about a semitone' : cents >= 35 ? 'about a quarter tone' : 'a little';

/**
 * The short note to the player: how far the strings fall at first, how to tune them, when to call somebody.
 * @param slowest the string that settles last
 */
export function handoverFor(
  build: Pick<Build, 'family' | 'bridge'>,
  slowest: { core: CoreMaterial; fit: Pick<CreepFit, 'median'> },
): Handover {
  const first = driftCents(slowest.fit.median, 1);
  const second = driftCents(slowest.fit.median, 2) - first;
  return {
    expect: `The new strings (${MATERIAL_NAMES[slowest.core]} core) drop ${say(first)} on the first day if nobody retunes them, and ${say(second)} on the second. This is normal.`,
    tune: [
      'Tune before playing. Bring each string up to its note; if it is sharp, drop below it and come up.',
      'Then go round once more: each string pulls the others flat.',
      ...(isBowed(build.family)
        ? ['Press the peg in gently as you turn it; make small changes with the fine tuner, if there is one.']
        : []),
      'Do not cut or bend the ends.',
    ],
    call: [
      'A string still drops a tone after three days.',
      'A string rattles, pings while tuning, or has slipped.',
      ...(build.bridge === 'floating' ? [callFor('leaning')] : []),
      callFor('lifting'),
      callFor('all-slack'),
    ],
  };
}
