import type { Build } from '../../instruments/build';

const HANGS: readonly Build['tailEnd'][] = ['stop-tailpiece', 'stop-tailpiece-wrapped', 'wrap-around'];

/** Whether the tail end falls off when no string pulls on it: it hangs on its studs, and nothing else holds it. */
export const comesLoose = (build: Pick<Build, 'tailEnd' | 'extras'>): boolean =>
  HANGS.includes(build.tailEnd) && !build.extras.includes('tailpiece-held');
