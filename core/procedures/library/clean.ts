import { isBowed } from '../../instruments/build';
import { isPinned, isTied } from '../../parts/tailEnds';
import type { StepDefinition } from '../types';

/** Clean, inspect, lubricate: while the strings are off. */
export const CLEAN: StepDefinition[] = [
  {
    id: 'clean.top',
    phase: 'clean',
    scope: 'group',
    provides: 'clean',
    compose: ({ build, group, names }) => ({
      title:
        group.length === build.positions.length
          ? `Wipe the top, the head and round the bridge${build.family === 'electric' || build.family === 'bass-guitar' ? ' and the pickups' : ''}.`
          : `Wipe under ${names.group(group)}.`,
      detail: isBowed(build.family)
        ? 'A dry cloth for rosin dust. Polish, if any, on the cloth only, never on the fingerboard.'
        : build.family === 'banjo'
          ? 'A dry cloth on the head; no polish on a skin.'
          : 'Polish goes on the cloth, never on the instrument and never on the fingerboard.',
      reason: 'Nowhere else in the year is the whole top free.',
      consumables: isBowed(build.family) || build.family === 'banjo' ? [] : ['polish'],
      tools: ['soft cloth'],
      skipBecause: ['Clean already'],
      minutes: group.length === build.positions.length ? 1.5 : group.length > 1 ? 0.6 : 0.2,
    }),
  },
  {
    id: 'clean.board',
    phase: 'clean',
    scope: 'group',
    // Only where the whole board lies free; in a yearly service it is what one came for.
    compose: ({ build, group, job }) => {
      if (group.length < build.positions.length) return null;
      const service = job.kind === 'yearly-service';
      if (build.fingerboard !== 'bare-dark') {
        return {
          title: `Wipe the ${build.fingerboard === 'maple' ? 'maple' : 'gloss-finished'} board with a barely damp cloth.`,
          detail: 'No oil and no steel wool: the finish is the protection.',
          reason: 'Oil does nothing on a finished board but collect dirt.',
          tools: ['board cloth'],
          ...(service ? {} : { skipBecause: ['Clean already'] }),
          minutes: 0.7,
        };
      }
      return {
        title: 'Clean the board; a drop of conditioner if it looks dry.',
        detail: `Two or three passes with cleaner until the cloth stays clean; a trace of oil soaks while the body is wiped, then comes off, and the frets are dried once more. Too much turns gummy.${service ? ' Very fine steel wool only for what cleaner does not lift, along the grain.' : ''}`,
        reason: 'A dry board cracks and its frets lift.',
        consumables: ['board cleaner', 'board conditioner'],
        tools: ['board cloth', ...(service ? ['very fine steel wool', 'masking tape'] : [])],
        ...(service ? {} : { skipBecause: ['Not dry', 'No time today'] }),
        minutes: service ? 6 : 2,
      };
    },
  },
  {
    id: 'clean.under-string',
    phase: 'clean',
    scope: 'group',
    when: (b, m) => b.fingerboard === 'bare-dark' && m.atATime !== 'all',
    // Two or three lanes lie free on a fixed bridge in any change; a lane at a time is for a yearly service.
    compose: ({ build, group, names, job }) =>
      group.length === build.positions.length || (job.kind !== 'yearly-service' && group.length < 2)
        ? null
        : {
            title: `Clean the board under ${names.group(group)}.`,
            detail: 'A little cleaner on the board cloth; conditioner only if it looks dry, a trace.',
            reason:
              build.bridge === 'floating'
                ? 'The bridge may not lose its tension, so the board is done a lane at a time.'
                : 'The strings that stay on keep the tension, so the board is done lane by lane.',
            ...(job.kind === 'yearly-service' ? {} : { skipBecause: ['Clean already'] }),
            consumables: ['board cleaner', 'board conditioner'],
            tools: ['board cloth'],
            minutes: 1,
          },
  },
  {
    id: 'clean.slots',
    phase: 'clean',
    scope: 'group',
    compose: ({ group, strings }) => ({
      title: `Graphite in the nut slot${group.length > 1 ? 's' : ''}; the string must glide.`,
      detail: strings.some((s) => s.core === 'gut')
        ? 'A trace at the bridge too: gut frays where it sticks.'
        : 'Draw the string through its slot: that cleans it, and the hand feels the drag. A slot lubricant does the same; wipe off what is too much.',
      reason: 'A ping while tuning is a string that sticks in its slot.',
      consumables: ['graphite pencil'],
      skipBecause: ['Strings already run freely'],
      minutes: 0.1 * group.length,
    }),
  },
  {
    id: 'clean.peg',
    phase: 'clean',
    scope: 'string',
    when: (b) => b.tuner === 'tapered-peg',
    compose: ({ names }, position) => ({
      title: `Compound on the two shiny bands of ${names.part('peg', position)}; turn it many times.`,
      detail: 'Press in gently while turning, until it moves evenly and stays.',
      reason: 'Only possible while its string is off.',
      check: { question: 'Turns evenly and stays?', good: 'No jerk, no creep when let go.', ifNot: 'peg-slips' },
      consumables: ['peg compound'],
      mistakes: ['peg-slips'],
      skipBecause: ['It turns evenly and holds'],
      minutes: 0.5,
    }),
  },
  {
    id: 'clean.inspect',
    phase: 'clean',
    scope: 'group',
    compose: ({ build, group, names }) => {
      const has = build.extras;
      const look = [
        ...(isPinned(build.tailEnd) ? ['cracks between the pin holes'] : []),
        ...(isTied(build.tailEnd) ? ['worn or sharp holes'] : []),
        ...(build.bridge === 'fixed' && build.family !== 'electric' && build.family !== 'bass-guitar'
          ? ['a lifting bridge']
          : []),
        'sharp saddle or worn slots',
        ...(isBowed(build.family) ? ['a moved soundpost'] : ['loose frets']),
        ...(build.head === 'pegbox' || build.tuner === 'friction-peg' || has.includes('fine-tuners')
          ? []
          : [build.tuner === 'roller' ? 'loose tuner screws' : 'loose tuner nuts']),
      ];
      // Machines with rollers are screwed to the side of the head; a planetary or plain tuner has a nut on top.
      const nuts = look.includes('loose tuner nuts');
      const loose = nuts || look.includes('loose tuner screws');
      // On a floating bridge this is a glance at one string's places, not a survey.
      const brief = group.length < build.positions.length;
      return {
        title: brief
          ? `Look where ${names.group(group)} ran: slot and bridge.`
          : `Look: ${look.slice(0, 4).join(', ')}.`,
        detail:
          loose && !brief
            ? `A loose tuner ${nuts ? 'nut or screw' : 'screw'} is snugged now, with the driver of the right size${nuts ? ' (nuts are mostly 10 mm)' : ''}; a wrong one slips and scars.`
            : undefined,
        reason: 'Now it can be seen, and a fault found here costs no strings.',
        check: {
          question: 'No crack, nothing lifting or moved?',
          good: 'Wood whole, bridge down along its whole edge. What is only worn or loose is put right here.',
          ifNot: 'needs-repair',
        },
        cautions: ['qualified-repair'],
        ...(loose && !brief ? { tools: [nuts ? 'nut driver' : 'screwdriver'] } : {}),
        minutes: brief ? 0.15 : 0.8,
      };
    },
  },
];
