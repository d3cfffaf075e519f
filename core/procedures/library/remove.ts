import type { StepDefinition } from '../types';
import { groupLabel, stringLabel } from '../words';

const CROSS_HOLE_POSTS = ['plain-post', 'friction-peg', 'planetary'];

/** Taking old strings off, and the clean and look while there is room. */
export const REMOVE: StepDefinition[] = [
  {
    id: 'remove.post',
    phase: 'remove',
    scope: 'group',
    provides: 'release-post',
    when: (b) => CROSS_HOLE_POSTS.includes(b.tuner),
    compose: ({ build, group }) => ({
      title: `Unwind ${groupLabel(build, group)} from the post${group.length > 1 ? 's' : ''}.`,
      detail: 'Straighten the bent end and draw it out of the hole without scratching the head.',
      cautions: ['sharp-ends', 'under-tension'],
      minutes: 0.3 * group.length,
    }),
  },
  {
    id: 'remove.pin',
    phase: 'remove',
    scope: 'string',
    provides: 'release-tail',
    when: (b) => b.tailEnd === 'pin-bridge',
    compose: ({ build }, position) => ({
      title: `Pull the pin of ${stringLabel(build, position)}: up, while pushing the string in.`,
      detail: 'Lay the pins down in order: each has worn to its own string.',
      cautions: ['under-tension'],
      mistakes: ['pin-stuck'],
      tools: ['winder notch or pin puller'],
      minutes: 0.3,
    }),
  },
  {
    id: 'remove.tie',
    phase: 'remove',
    scope: 'string',
    provides: 'release-tail',
    when: (b) => b.tailEnd === 'uke-tie',
    compose: ({ build }, position) => ({
      title: `Push the tail of ${stringLabel(build, position)} back through and draw it out.`,
      detail: 'Look how the neighbour is tied first: it shows how the new one should look.',
      mistakes: [],
      minutes: 0.4,
    }),
  },
  {
    id: 'remove.coil',
    phase: 'remove',
    scope: 'group',
    compose: ({ build, group }) => ({
      title: `Coil ${groupLabel(build, group)} and bin ${group.length > 1 ? 'them' : 'it'} now.`,
      detail: 'Old strings are never used again.',
      cautions: ['bin-ends', 'sharp-ends'],
      minutes: 0.15 * group.length,
    }),
  },
  {
    id: 'clean.top',
    phase: 'clean',
    scope: 'group',
    provides: 'clean',
    compose: ({ build, group }) => ({
      title:
        group.length === build.positions.length
          ? 'Wipe the top, the head and round the bridge.'
          : 'Wipe under the string that is off.',
      detail: 'Polish goes on the cloth, never on the instrument and never on the fingerboard.',
      consumables: ['polish'],
      skipBecause: ['Clean already'],
      minutes: group.length > 1 ? 2 : 0.3,
    }),
  },
  {
    id: 'clean.board',
    phase: 'clean',
    scope: 'group',
    // Only where the whole board lies free.
    compose: ({ build, group }) =>
      group.length < build.positions.length || build.fingerboard !== 'bare-dark'
        ? null
        : {
            title: 'Clean the board; a drop of conditioner if it looks dry.',
            detail: 'A different cloth for the board. Little is enough: too much turns gummy.',
            cautions: ['oil-rags'],
            consumables: ['board cleaner', 'board conditioner', 'board cloth'],
            skipBecause: ['Not dry', 'No time today'],
            minutes: 3,
          },
  },
  {
    id: 'clean.slots',
    phase: 'clean',
    scope: 'group',
    compose: ({ group }) => ({
      title: `Graphite in the nut slot${group.length > 1 ? 's' : ''}; the string must glide.`,
      consumables: ['graphite pencil'],
      skipBecause: ['Slots glide already'],
      minutes: 0.15 * group.length,
    }),
  },
  {
    id: 'clean.look-pins',
    phase: 'clean',
    scope: 'group',
    when: (b) => b.tailEnd === 'pin-bridge',
    compose: () => ({
      title: 'Look: cracks between pin holes, bridge lifting, worn pins, loose tuner nuts.',
      detail: 'Snug tuner nuts with the driver of the right size; a wrong one slips and scars.',
      check: {
        question: 'Bridge flat, no crack, pins sound?',
        good: 'No gap under the bridge, wood whole between the holes.',
        ifNot: 'needs-repair',
      },
      cautions: ['qualified-repair'],
      tools: ['nut driver'],
      minutes: 1,
    }),
  },
  {
    id: 'prepare.look-tie',
    phase: 'prepare',
    scope: 'instrument',
    when: (b) => b.tailEnd === 'uke-tie',
    compose: () => ({
      title: 'Look at the bridge and the pegs before starting.',
      check: {
        question: 'Bridge flat on the top, pegs hold?',
        good: 'No gap at the back edge of the bridge; a peg stays where it is left.',
        ifNot: 'needs-repair',
      },
      cautions: ['qualified-repair'],
      minutes: 0.5,
    }),
  },
];
