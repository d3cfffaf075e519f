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
  list.map((p) => stringLabel(build, p)).join(' and ');

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
          ? 'Look through the sound hole on the treble side: does the soundpost stand?'
          : 'Look for what let go: dry air, a slipped tail, a lifting bridge, a crack.',
        reason:
          build.tuner === 'tapered-peg'
            ? 'Strings that all went slack at once say dry air and pegs that shrank, not old strings.'
            : 'Strings that all went slack at once say that something let go.',
        check: {
          question: bowed ? 'Does the soundpost stand?' : 'Wood whole, bridge sound?',
          good: bowed
            ? 'It stands upright behind the treble foot, and nothing rattles inside.'
            : 'No crack, no gap under the bridge.',
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
      title: 'Read the room: how dry is it?',
      detail:
        'Towards 20 % relative humidity wood shrinks and what sits in it slips. Every instrument in this room is at risk.',
      reason: 'Tuned up in the same dry room it is slack again tomorrow.',
      note: ['Relative humidity and temperature of the room'],
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
        title: `${isBowed(build.family) ? 'Treble side down. ' : ''}Two strings barely tight, bridge back on its marks.`,
        detail: `Whichever string still holds comes first, else ${string(build, first)}, just enough to hold it: ${place.where}. Straighten it from the side.`,
        reason: isBowed(build.family)
          ? 'Leaning on the soundpost’s side keeps the post from walking.'
          : 'The first tension is tiny: it only keeps the bridge from falling.',
        numbers: place.numbers,
        check: {
          question: 'Upright, on its marks?',
          good: 'The side towards the tailpiece stands square to the top.',
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
      title: `Is every string still hooked at the tail?${build.extras.includes('fine-tuners') ? ' Screw the fine tuners out.' : ''}`,
      detail: 'An end that slipped off while it was slack is hooked again before anything is tightened.',
      reason: 'A string that lets go of the tail under tension takes the bridge with it.',
      check: { question: 'Every end seated?', good: 'A light pull by hand moves none.', ifNot: 'not-hooked' },
      mistakes: ['not-hooked'],
      ...(isBowed(build.family) ? { tools: ['light for the soundpost'] } : {}),
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
          : 'Where a peg turns freely: snug its screw.',
      detail:
        build.tuner === 'tapered-peg'
          ? 'Press in gently while turning; never force it.'
          : 'A quarter turn at a time, until it stays.',
      reason: 'A peg that slipped once slips again.',
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
        detail: `${order.map((pair) => string(build, pair)).join(', then ')}. Half way first, then again.${build.bridge === 'floating' ? ' After each string look from the side: the bridge must not tip forward.' : ''} Graphite at nut and bridge while it is slack.`,
        reason:
          build.bridge === 'floating'
            ? 'Tight on one side and slack on the other walks the bridge off its place.'
            : 'A top that was slack takes its load back slowly.',
        check: {
          question:
            build.bridge === 'floating'
              ? 'Looked after each string: bridge not tipped forward?'
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
      title: `Tune slowly${build.bridge === 'floating' ? ', an eye on the bridge' : ''}.`,
      detail: `${build.positions.map((p) => `${p.number} ${p.note}`).join(' · ')}. A string that will not come up is not forced.`,
      reason: 'Old strings that went slack break easily on the way back.',
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
        ? 'To a luthier as soon as possible, to check the post.'
        : 'Out of the dry room; look again tomorrow.',
      detail: `In its case, not on a stand; in a room at 40 to 60 % humidity.${isBowed(build.family) ? ' Recorded, it stays open until somebody qualified has looked.' : ''}${build.tuner === 'tapered-peg' ? ' The other instruments with wooden pegs stood in the same air.' : ''}`,
      reason: isBowed(build.family)
        ? 'A post that stands may still have moved.'
        : 'If it was the air, it happens again.',
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
      title: 'Photograph it: whole, head, bridge, tail end.',
      detail: 'Hardware you do not know: photograph, stop, ask. Someone who knows it adds it to the build.',
      reason: 'The photograph is what the first removal is checked against.',
      stopIf: ['A part you cannot name: leave the strings on.', 'A crack or a loose part: a qualified repairer first.'],
      note: ['Photographs of the head, the bridge and the tail end'],
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
      title: 'Measure the string length, the post and the strings that are on.',
      detail: `From nut to bridge as it stands; the card has {post} for the post. Gauge each string where it speaks; write down what differs.`,
      reason: 'Every later number comes from these.',
      numbers: {
        post: {
          label: 'Post',
          value: build.post.diameterMm,
          unit: 'mm',
          digits: 1,
          why: 'Diameter where the coils lie.',
        },
      },
      note: ['String length, post diameter, gauge of each string'],
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
        reason: 'Five short answers make the condition score; one bad enough sign decides alone.',
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
      title: 'Pluck each string, note how flat it is, tune it from below.',
      detail: `${build.positions.map((p) => `${p.number} ${p.note}`).join(' · ')}.${strings.some((s) => isSoft(s.core)) ? ` ${OVERNIGHT}` : ''}`,
      reason: 'How far it fell says when it will hold, and which string slips.',
      note: ['Cents flat for each string'],
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
        reason: 'New strings drag it towards the nut for a day.',
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
      detail: 'A slip of paper along its back edge goes in nowhere.',
      reason: 'A heavier set shows here first.',
      check: { question: 'No gap anywhere?', good: 'The paper goes in nowhere.', ifNot: 'needs-repair' },
      cautions: ['qualified-repair'],
      mistakes: ['needs-repair'],
      tools: ['slip of paper'],
      minutes: 0.4,
    }),
  },
];
