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
          ? `Wipe the top, the headstock and round the bridge${build.family === 'electric' || build.family === 'bass-guitar' ? ' and the pickups' : ''}.`
          : `Wipe under ${names.group(group)}.`,
      detail: isBowed(build.family)
        ? 'Use a dry cloth for rosin dust. Polish, if any, goes on the cloth only, never on the fingerboard.'
        : build.family === 'banjo'
          ? 'Use a dry cloth on the head; no polish on a skin.'
          : 'Polish goes on the cloth, never on the instrument and never on the fingerboard.',
      reason: 'Only with the strings off is the whole top clear.',
      consumables: isBowed(build.family) || build.family === 'banjo' ? [] : ['polish'],
      tools: ['soft cloth'],
      skipBecause: ['Already clean'],
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
          title: `Wipe the ${build.fingerboard === 'maple' ? 'maple' : 'gloss-finished'} fingerboard with a barely damp cloth.`,
          detail: 'No oil, no steel wool: the finish protects the wood.',
          reason: 'On a finished board, oil only collects dirt.',
          tools: ['board cloth'],
          ...(service ? {} : { skipBecause: ['Already clean'] }),
          minutes: 0.7,
        };
      }
      return {
        title: 'Clean the board; add a drop of conditioner if it looks dry.',
        detail: `Two or three passes with cleaner until the cloth stays clean. Let a trace of oil soak in while you wipe the body, then wipe it off and dry the frets again. Too much goes gummy.${service ? ' Very fine steel wool only where cleaner is not enough; rub along the grain.' : ''}`,
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
            detail: 'A little cleaner on the board cloth; a trace of conditioner, only if it looks dry.',
            reason:
              build.bridge === 'floating'
                ? 'The bridge must keep its tension, so clean one strip of the board at a time.'
                : 'The strings left on keep the tension, so clean the board strip by strip.',
            ...(job.kind === 'yearly-service' ? {} : { skipBecause: ['Already clean'] }),
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
      title: `Rub graphite into the nut slot${group.length > 1 ? 's' : ''}: the string must run freely.`,
      detail: strings.some((s) => s.core === 'gut')
        ? 'A trace at the bridge too: gut frays where it sticks.'
        : 'Draw the string through its slot: that cleans it, and you feel any drag. A slot lubricant works too; wipe off the excess.',
      reason: 'A ping while tuning means the string is sticking in its slot.',
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
      title: `Put compound on the two shiny bands of ${names.part('peg', position)}, then turn it many times.`,
      detail: 'Press in gently as you turn, until it moves smoothly and stays put.',
      reason: 'Only possible with its string off.',
      check: {
        question: 'Turns smoothly and stays put?',
        good: 'No jerk, no slip when you let go.',
        ifNot: 'peg-slips',
      },
      consumables: ['peg compound'],
      mistakes: ['peg-slips'],
      skipBecause: ['It turns smoothly and holds'],
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
        'a sharp saddle or worn slots',
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
          ? `Check the nut and bridge where ${names.group(group)} ran.`
          : `Check for ${look.slice(0, 4).join(', ')}.`,
        detail:
          loose && !brief
            ? `Snug any loose tuner ${nuts ? 'nut or screw' : 'screw'} now with a driver that fits${nuts ? ' (most nuts are 10 mm)' : ''}; the wrong size slips and marks it.`
            : undefined,
        reason: 'It is easy to see now, and a fault found now wastes no strings.',
        check: {
          question: 'No cracks, nothing lifting or moved?',
          good: 'No cracks, no gap under the bridge. Anything merely worn or loose is put right now.',
          ifNot: 'needs-repair',
        },
        cautions: ['qualified-repair'],
        ...(loose && !brief ? { tools: [nuts ? 'nut driver' : 'screwdriver'] } : {}),
        minutes: brief ? 0.15 : 0.8,
      };
    },
  },
];
