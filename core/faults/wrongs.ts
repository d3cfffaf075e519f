import type { Family } from '../instruments/build';
import { isBowed } from '../instruments/build';
import { SAFETY, type SafetyTopicId } from '../safety/topics';
import type { OpenReport } from '../wear/due';

/**
 * What anybody may say is wrong, in words that need no trade: of the strings it becomes a report and makes the instrument
 * due; of anything else it becomes an item that somebody qualified looks at, open until they have. Common practice, no
 * source.
 */
interface Wrong {
  name: string;
  /** A report about the strings. */
  report: OpenReport['kind'] | null;
  /** Something for a repairer, by what is said of it until then. */
  topic: SafetyTopicId | null;
  /** Who looks at it, where the topic's own person is not the one. */
  to?: string;
  ofString?: boolean;
  /** What to do until somebody has come. */
  meanwhile: string;
}

const strings = (name: string, report: OpenReport['kind'], meanwhile: string, ofString = false): Wrong => ({
  name,
  report,
  topic: null,
  meanwhile,
  ofString,
});

export const WRONGS = {
  broken: strings(
    'A string is broken',
    'broken',
    'Mind the loose ends: they are sharp. Do not tune the other strings up to make up for it. Keep it in its case.',
    true,
  ),
  dull: strings('It sounds dull, or the strings feel rough', 'dull', 'You can play it until they are changed.'),
  'will-not-hold': strings(
    'It will not stay in tune',
    'will-not-hold',
    'Do not force a peg in. You can still play it.',
  ),
  slack: strings('All the strings are slack', 'slack', SAFETY['all-slack'].meanwhile),
  buzz: strings(
    'It buzzes or rattles',
    'other',
    'If the noise comes from inside, stop playing and keep it flat. Otherwise you can play it.',
  ),
  peg: strings('A peg, tuner or fine tuner does not work', 'other', 'Leave it as it is: do not force it.'),
  crack: {
    name: 'A crack, an open seam or a part that has come loose',
    report: null,
    topic: 'lifting',
    meanwhile: SAFETY.lifting.meanwhile,
  },
  bridge: {
    name: 'The bridge leans, has moved or has fallen',
    report: null,
    topic: 'leaning',
    meanwhile: SAFETY.leaning.meanwhile,
  },
  electrics: {
    name: 'No sound from the pickup, socket or controls',
    report: null,
    topic: 'unsure',
    to: 'a qualified electronics technician',
    meanwhile: 'Unplug it. Do not open it: mains and batteries can injure. Qualified people and local rules decide.',
  },
  case: {
    name: 'The case, bow, strap or stand',
    report: null,
    topic: 'unsure',
    to: 'whoever repairs cases and bows',
    meanwhile: 'Do not carry it in a case that does not close.',
  },
  other: strings('Something else', 'other', SAFETY.unsure.meanwhile),
} as const satisfies Record<string, Wrong>;
export type WrongId = keyof typeof WRONGS;
export const WRONG_IDS = Object.keys(WRONGS) as WrongId[];

/** What can be wrong with an instrument of a family, in the order in which it is asked. */
export const wrongsOf = (family: Family): WrongId[] =>
  WRONG_IDS.filter(
    (id) =>
      id !== 'electrics' ||
      ['electric', 'bass-guitar', 'steel-acoustic', 'twelve-string', 'classical'].includes(family),
  ).filter((id) => id !== 'bridge' || isBowed(family) || family === 'banjo' || family === 'mandolin');

/** Who looks at it; null for what the programme's own people do. */
export function wrongTo(id: WrongId): string | null {
  const wrong: Wrong = WRONGS[id];
  return wrong.topic === null ? null : (wrong.to ?? SAFETY[wrong.topic].to);
}
