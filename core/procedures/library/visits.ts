import { sayList } from '../../count';
import type { Build, Position } from '../../instruments/build';
import { isBowed } from '../../instruments/build';
import { SAFETY, stopFor } from '../../safety/topics';
import { isSoft, OVERNIGHT } from '../../settling/overnight';
import { INSPECTION, type InspectionItem } from '../../wear/condition';
import type { StepDefinition } from '../types';
import { stringLabel } from '../words';
import { bridgePlace } from './bridgePlace';

/** The order in which the strings of an instrument found slack get their pull back. Common practice, no source. */
export function rescueOrder(build: Pick<Build, 'family' | 'positions'>): Position[][] {
  const down = [...build.positions].sort((a, b) => b.number - a.number);
  if (down.length < 4) return down.map((p) => [p]);
  const at = (i: number) => down[i] as Position;
  if (build.family === 'cello') return [[at(1), at(2)], [at(3)], [at(0)]];
  // Left and right in turn, from the outside inwards.
  const pairs: Position[][] = [];
  for (let i = 0, j = down.length - 1; i <= j; i++, j--) pairs.push(i === j ? [at(i)] : [at(i), at(j)]);
  return pairs;
}

const string = (build: Pick<Build, 'positions'>, list: readonly Position[]) =>
  sayList(list.map((p) => stringLabel(build, p)));

/** Found slack, a first look, retune visits, a second look at the bridge. */
export const VISITS: StepDefinition[] = [
  // Found with all strings slack.
  {
    id: 'rescue.hands-off',
    phase: 'look',
    scope: 'instrument',
    kinds: ['emergency'],
    compose: ({ build }) => {
      const bowed = isBowed(build.family);
      return {
        title: `${SAFETY['all-slack'].meanwhile} Do not shake it.`,
        detail: bowed
          ? 'Look through the treble f-hole: is the soundpost still standing?'
          : 'Look for the cause: dry air, a slipped tail, a lifting bridge, a crack.',
        reason:
          build.tuner === 'tapered-peg'
            ? 'All slack at once means dry air and shrunken pegs, not old strings.'
            : 'All slack at once means that something has given way.',
        check: {
          question: bowed ? 'Is the soundpost standing?' : 'No cracks, bridge firmly down?',
          good: bowed
            ? 'It stands upright behind the treble foot, and nothing rattles inside.'
            : 'No cracks, no gap under the bridge.',
          ifNot: bowed ? 'soundpost-down' : 'needs-repair',
        },
        stopIf: [...(bowed ? [stopFor('soundpost')] : []), stopFor('lifting')],
        cautions: ['qualified-repair', ...(bowed ? (['soundpost'] as const) : [])],
        mistakes: bowed ? ['soundpost-down', 'needs-repair'] : ['needs-repair'],
        minutes: 1,
      };
    },
  },
  {
    id: 'rescue.room',
    phase: 'look',
    scope: 'instrument',
    kinds: ['emergency'],
    compose: () => ({
      title: 'Read the hygrometer: how dry is the room?',
      detail:
        'Near 20 % relative humidity, wood shrinks and parts fitted in it slip. Every instrument in this room is at risk.',
      reason: 'Tuned up in the same dry room, it is slack again tomorrow.',
      note: ['room'],
      skipBecause: ['No hygrometer here'],
      minutes: 0.5,
    }),
  },
  {
    id: 'rescue.bridge',
    phase: 'prepare',
    scope: 'instrument',
    kinds: ['emergency'],
    when: (b) => b.bridge === 'floating',
    compose: ({ build }) => {
      const [first = []] = rescueOrder(build);
      const place = bridgePlace(build);
      return {
        title: `${isBowed(build.family) ? 'If it must tilt, treble side down. ' : ''}Two strings barely tight, bridge back on its marks.`,
        detail: `Start with any string that still holds, else ${string(build, first)}, just enough to hold the bridge: ${place.where}. Sight it from the side and straighten it.`,
        reason: isBowed(build.family)
          ? 'With the treble side down, the soundpost is less likely to shift.'
          : 'The first tension is tiny: it only keeps the bridge from falling.',
        numbers: place.numbers,
        check: {
          question: 'Upright, on its marks?',
          good: 'The tailpiece side of the bridge is square to the top.',
          ifNot: 'bridge-tipped',
        },
        mistakes: ['bridge-tipped', ...(isBowed(build.family) ? (['soundpost-down'] as const) : [])],
        tools: ['ruler'],
        minutes: 3,
      };
    },
  },
  {
    id: 'rescue.hooked',
    phase: 'prepare',
    scope: 'instrument',
    kinds: ['emergency'],
    when: (b) => b.bridge === 'floating',
    compose: ({ build }) => ({
      title: `Is every string still hooked in the tailpiece?${build.extras.includes('fine-tuners') ? ' Back the fine tuners off.' : ''}`,
      detail: 'If an end slipped off while slack, hook it back on before you tighten anything.',
      reason: 'A string that comes off the tailpiece under tension takes the bridge with it.',
      check: { question: 'Every end seated?', good: 'A light tug moves none of them.', ifNot: 'not-hooked' },
      mistakes: ['not-hooked'],
      ...(isBowed(build.family) ? { tools: ['inspection light'] } : {}),
      minutes: 0.5,
    }),
  },
  {
    id: 'rescue.peg',
    phase: 'prepare',
    scope: 'instrument',
    kinds: ['emergency'],
    when: (b) => b.tuner === 'tapered-peg' || b.tuner === 'friction-peg',
    compose: ({ build }) => ({
      title:
        build.tuner === 'tapered-peg'
          ? 'Any peg that slipped: compound on its two shiny bands.'
          : 'Any peg that turns too freely: snug its screw.',
      detail:
        build.tuner === 'tapered-peg'
          ? 'Press in gently as you turn; never force it.'
          : 'A quarter turn at a time, until it stays put.',
      reason: 'A peg that has slipped once will slip again.',
      ...(build.tuner === 'tapered-peg' ? { consumables: ['peg compound'] } : { tools: ['screwdriver'] }),
      mistakes: ['peg-slips'],
      skipBecause: ['The pegs hold'],
      minutes: 1,
    }),
  },
  {
    id: 'rescue.balance',
    phase: 'tune',
    scope: 'instrument',
    kinds: ['emergency'],
    compose: ({ build }) => {
      const order = rescueOrder(build);
      return {
        title: `Rewind each string${build.head === 'pegbox' ? ' neatly against the pegbox wall' : ''}, a little tension at a time.`,
        detail: `${order.map((pair) => string(build, pair)).join(', then ')}. Half the tension first, then go round again.${build.bridge === 'floating' ? ' After each string, look from the side: the bridge must not tip forward.' : ''} Put graphite at nut and bridge while it is slack.`,
        reason:
          build.bridge === 'floating'
            ? 'Tight on one side and slack on the other pulls the bridge out of place.'
            : 'A top that has been slack must take the load back slowly.',
        check: {
          question:
            build.bridge === 'floating'
              ? 'Checked after each string: bridge still upright?'
              : 'Nothing moved or creaked?',
          good: build.bridge === 'floating' ? 'Upright, feet down on the top.' : 'Bridge flat, no new gap.',
          ifNot: build.bridge === 'floating' ? 'bridge-tipped' : 'needs-repair',
        },
        mistakes: ['snaps', ...(build.bridge === 'floating' ? (['bridge-tipped'] as const) : [])],
        tools: ['tuner'],
        minutes: 4,
      };
    },
  },
  {
    id: 'rescue.tune',
    phase: 'tune',
    scope: 'instrument',
    kinds: ['emergency'],
    compose: ({ build }) => ({
      title: `Tune slowly${build.bridge === 'floating' ? ', keeping an eye on the bridge' : ''}.`,
      detail: `${build.positions.map((p) => `${p.number} ${p.note}`).join(' · ')}. Do not force a string that will not come up.`,
      reason: 'Old strings that have been slack break easily on the way back up.',
      mistakes: ['snaps', 'pings', ...(build.bridge === 'floating' ? (['bridge-tipped'] as const) : [])],
      tools: ['tuner'],
      minutes: 3,
    }),
  },
  {
    id: 'rescue.hand-on',
    phase: 'last-checks',
    scope: 'instrument',
    kinds: ['emergency'],
    compose: ({ build }) => ({
      title: isBowed(build.family)
        ? 'Send it to a luthier as soon as possible to check the post.'
        : 'Move it out of the dry room; check again tomorrow.',
      detail: `Keep it in its case, not on a stand, in a room at 40 to 60 % humidity.${isBowed(build.family) ? ' The record stays open until a luthier has looked.' : ''}${build.tuner === 'tapered-peg' ? ' Check others with wooden pegs: they were in the same air.' : ''}`,
      reason: isBowed(build.family)
        ? 'A standing post may still have moved.'
        : 'If it was the air, it will happen again.',
      cautions: isBowed(build.family) ? ['soundpost', 'qualified-repair'] : ['qualified-repair'],
      minutes: 0.5,
    }),
  },
  // A first look at an instrument nobody knows.
  {
    id: 'first.photograph',
    phase: 'look',
    scope: 'instrument',
    kinds: ['inspection'],
    compose: () => ({
      title: 'Photograph it: whole, headstock, bridge, tail end.',
      detail: 'Hardware you do not recognise: photograph it, stop and ask. Someone who knows it adds it to the build.',
      reason: 'You will need it when the strings first come off.',
      stopIf: ['A part you cannot name: leave the strings on.', 'A crack or a loose part: a qualified repairer first.'],
      note: ['photographs'],
      mistakes: ['unknown-part', 'needs-repair'],
      minutes: 1.5,
    }),
  },
  {
    id: 'first.measure',
    phase: 'look',
    scope: 'instrument',
    kinds: ['inspection'],
    compose: ({ build }) => ({
      title: 'Measure the string length, the post and the strings fitted.',
      detail:
        'Nut to bridge as it stands; the post is {post} on record. Measure each string between nut and bridge; write down what differs.',
      reason: 'Every later number comes from these.',
      numbers: {
        post: {
          label: 'Post',
          value: build.post.diameterMm,
          unit: 'mm',
          digits: 1,
          why: 'Diameter where the winds sit.',
        },
      },
      note: ['measured'],
      tools: ['ruler', 'calliper'],
      minutes: 2,
    }),
  },
  ...(Object.keys(INSPECTION) as InspectionItem[]).map(
    (item): StepDefinition => ({
      id: `first.${item}`,
      phase: 'look',
      scope: 'instrument',
      kinds: ['inspection'],
      compose: () => ({
        title: INSPECTION[item].question,
        choices: INSPECTION[item].answers,
        reason: 'Five short answers show the condition; one bad enough decides alone.',
        minutes: 0.3,
      }),
    }),
  ),
  // A retune visit.
  {
    id: 'retune.pluck',
    phase: 'tune',
    scope: 'instrument',
    kinds: ['retune'],
    compose: ({ build, strings }) => ({
      title: 'Pluck each string, note how flat it is, tune it up from below.',
      detail: `${build.positions.map((p) => `${p.number} ${p.note}`).join(' · ')}.${strings.some((s) => isSoft(s.core)) ? ` ${OVERNIGHT}` : ''}`,
      reason: 'How far each dropped shows when it will hold, and which one slips.',
      note: ['flatness'],
      mistakes: ['holds-no-note', 'pings', 'snaps'],
      tools: ['tuner'],
      minutes: 0.15 * build.positions.length,
    }),
  },
  {
    id: 'retune.bridge',
    phase: 'last-checks',
    scope: 'instrument',
    kinds: ['retune', 'bridge-check'],
    when: (b) => b.bridge === 'floating',
    compose: ({ build }) => {
      const place = bridgePlace(build);
      return {
        title: 'Bridge upright and in its place?',
        detail: `If it leans, ease it back with both hands, thumbs at the top: ${place.where}.`,
        reason: 'New strings pull it towards the nut for a day.',
        numbers: place.numbers,
        check: { question: 'Upright and in its place?', good: place.good, ifNot: 'bridge-tipped' },
        mistakes: ['bridge-tipped'],
        tools: ['ruler'],
        minutes: 0.7,
      };
    },
  },
  {
    id: 'retune.fixed',
    phase: 'last-checks',
    scope: 'instrument',
    kinds: ['bridge-check'],
    when: (b) => b.bridge === 'fixed',
    compose: () => ({
      title: 'Bridge flat on the top, nothing lifting?',
      detail: 'Try a slip of paper along its back edge: it must not slide under.',
      reason: 'A heavier set lifts the back edge first.',
      check: { question: 'No gap anywhere?', good: 'The paper does not slide under.', ifNot: 'needs-repair' },
      cautions: ['qualified-repair'],
      mistakes: ['needs-repair'],
      tools: ['slip of paper'],
      minutes: 0.4,
    }),
  },
];
