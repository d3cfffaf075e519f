import type { Position } from '../../instruments/build';
import { comesLoose, isPinned } from '../../parts/tailEnds';
import { isLocking } from '../../parts/tuners';
import { CHANGE_KINDS, type PartFate, type Situation, type StepDefinition } from '../types';
import { groupPhrase, postWord } from '../words';

const plural = (n: number) => (n > 1 ? 's' : '');

/** Slackening, and taking old strings off. */
export const REMOVE: StepDefinition[] = [
  {
    id: 'slacken.strings',
    phase: 'slacken',
    scope: 'group',
    provides: 'slacken',
    kinds: CHANGE_KINDS,
    compose: ({ build, group, names }) => {
      const bowedPeg = build.tuner === 'tapered-peg';
      return {
        title: `Slacken ${names.group(group)} completely, keeping a hand on ${group.length > 1 ? 'them' : 'it'}.`,
        detail: `${groupPhrase(build, group, 'loosens')} If the pitch rises, turn the other way.${bowedPeg ? ' Hold the scroll and ease the peg round; do not pull it out.' : ''}${build.tuner === 'worm-gear' ? ' If the next string blocks the peg, slacken it a little and bring it straight back up.' : ''}`,
        reason: 'Cut or freed under tension, a string whips out and can injure you or the top.',
        check: {
          question: 'No note and no rattle when plucked?',
          good: group.length > 1 ? 'Each string is loose and silent.' : 'It is loose and silent.',
          ifNot: 'not-slack',
        },
        mistakes: ['not-slack', ...(bowedPeg ? (['peg-slips'] as const) : [])],
        // A button that is turned with the fingers takes no winder.
        tools: build.head === 'pegbox' || build.tuner === 'friction-peg' ? [] : ['winder'],
        minutes: 0.2 * group.length + 0.2,
      };
    },
  },
  {
    id: 'slacken.unlock',
    phase: 'slacken',
    scope: 'group',
    kinds: CHANGE_KINDS,
    when: isLocking,
    compose: ({ build, group }) => ({
      title:
        build.tuner === 'locking-thumbwheel'
          ? `Loosen the thumb screw${plural(group.length)} at the back of the headstock.`
          : `Loosen the thumb screw${plural(group.length)} on top.`,
      reason: 'Only once it is slack: the lock is all that holds the string.',
      minutes: 0.1 * group.length,
    }),
  },
  {
    id: 'remove.cut',
    phase: 'remove',
    scope: 'group',
    // Only where whole sets of steel come off a fixed bridge; a string that goes back on is never cut.
    kinds: ['full-set', 'yearly-service'],
    when: (b) => b.bridge === 'fixed' && ['steel-acoustic', 'twelve-string', 'electric'].includes(b.family),
    compose: ({ build, group }) =>
      group.length < 3
        ? null
        : {
            title: `Hold ${group.length === build.positions.length ? 'the strings' : 'them'} down and cut ${build.family === 'electric' ? 'between the pickups' : 'over the soundhole'}.`,
            detail:
              'Hold the strings down at the 12th fret with one hand, cut them one by one with the other. To pull one out the short way, expose its ball end, snip it there and draw it out.',
            reason: 'Short ends come out without scratching. Do not cut until every string is silent.',
            cautions: ['under-tension', 'sharp-ends'],
            tools: ['cutters'],
            skipBecause: ['Not cutting, unwinding them'],
            minutes: 0.08 * group.length,
          },
  },
  {
    id: 'remove.post',
    phase: 'remove',
    scope: 'group',
    provides: 'release-post',
    kinds: CHANGE_KINDS,
    compose: ({ build, group, job, names }) => {
      const word = postWord(build);
      const from = `${group.length > 1 ? 'their' : 'its'} ${word}${plural(group.length)}`;
      const locked = job.last?.winds === 'self-lock';
      const how = isLocking(build)
        ? `Pull ${names.group(group)} back out of the open lock${plural(group.length)}.`
        : `Unwind ${names.group(group)} from ${from}.`;
      const detail =
        build.tuner === 'slotted-post'
          ? 'Lift off the winds, then pull the bent end up out of the post.'
          : isLocking(build)
            ? 'There are no winds: it pulls straight out.'
            : build.tuner === 'roller'
              ? 'Straighten the end and push it back out of the hole.'
              : build.head === 'pegbox'
                ? 'Let the winds off the peg, then draw the end out without scratching the pegbox.'
                : 'Straighten the bent end and draw it out of the hole without scratching the headstock.';
      return {
        title: how,
        detail: `${locked && !isLocking(build) ? 'Unfold the locked end first, with long-nose pliers. ' : ''}${detail}${job.kind === 'refit' ? '' : ' Once slack, you can cut instead of unwinding, even one at a time.'}`,
        reason: locked ? 'Locked ends hold until they are unfolded.' : 'This is where scratches happen.',
        cautions: ['sharp-ends', 'under-tension'],
        ...(locked ? { tools: ['long-nose pliers'] } : {}),
        // A locked end takes about twice as long to free.
        minutes: (isLocking(build) ? 0.1 : 0.2) * group.length * (locked ? 2 : 1),
      };
    },
  },
  {
    id: 'remove.tail',
    phase: 'remove',
    scope: 'string',
    provides: 'release-tail',
    kinds: CHANGE_KINDS,
    compose: (s, position) => {
      return {
        ...tailOff(s, position),
        parts: partsOff(s, position.number),
        cautions: [...(isPinned(s.build.tailEnd) ? (['pin-under-tension'] as const) : []), 'sharp-ends'],
      };
    },
  },
  {
    id: 'remove.loose',
    phase: 'remove',
    scope: 'group',
    kinds: CHANGE_KINDS,
    when: comesLoose,
    compose: ({ build, group, method }) =>
      group.length < build.positions.length
        ? null
        : method.hanging === 'lifted'
          ? {
              title: `Lift the ${build.tailEnd === 'wrap-around' ? 'bridge' : 'tailpiece'} off its studs and lay it on a cloth.`,
              detail: 'Hold the height posts while you wipe round them: turning them changes the action.',
              reason: 'Once off, it is cleaned all round and threaded without scratching the top.',
              notYet: 'Do not turn the height posts.',
              parts: [
                {
                  part: build.tailEnd === 'wrap-around' ? 'bridge' : 'tailpiece',
                  fate: 'put-back',
                  count: 1,
                },
              ],
              tools: ['soft cloth'],
              minutes: 0.3,
            }
          : {
              title: `The ${build.tailEnd === 'wrap-around' ? 'bridge' : 'tailpiece'} is loose now: leave the instrument flat.`,
              detail: build.extras.includes('bridge-screws')
                ? 'Keep the adjusting screws facing the way you noted.'
                : undefined,
              reason: 'Only the tape holds it until the first string is on.',
              notYet: 'Do not lift or turn it.',
              mistakes: ['tailpiece-fell'],
              minutes: 0.1,
            },
  },
  {
    id: 'remove.coil',
    phase: 'remove',
    scope: 'group',
    kinds: CHANGE_KINDS.filter((kind) => kind !== 'refit'),
    compose: ({ build, names, group }) => ({
      title: `Coil ${names.group(group)} and bin ${group.length > 1 ? 'them' : 'it'} now.`,
      detail: build.extras.includes('ball-end-spacers')
        ? 'Never reuse old strings. Take the ball-end spacers off them first, and keep a spare ball end as one.'
        : 'Never reuse old strings.',
      reason: 'Ends left on the floor get trodden on.',
      parts: [{ part: 'old string', fate: 'discard', count: group.length }],
      cautions: ['bin-ends', 'sharp-ends'],
      minutes: 0.12 * group.length,
    }),
  },
  {
    id: 'remove.keep',
    phase: 'remove',
    scope: 'group',
    kinds: ['refit'],
    compose: ({ names, group }) => ({
      title: `Lay ${names.group(group)} out in order, loosely coiled and numbered.`,
      reason: 'The same strings go back, each in its own place; a tight coil kinks.',
      parts: [{ part: 'kept string', fate: 'put-back', count: group.length }],
      cautions: ['sharp-ends'],
      tools: ['masking tape'],
      minutes: 0.2 * group.length,
    }),
  },
];

type TailOff = Pick<
  ReturnType<StepDefinition['compose']> & object,
  'title' | 'detail' | 'reason' | 'mistakes' | 'tools' | 'minutes'
>;

/** Taking one string out of its tail end. */
function tailOff({ build, names }: Situation, position: Position): TailOff {
  const name = names.of(position);
  if (build.extras.includes('tail-slotted'))
    return {
      title: `Lift ${name} out of its slot by the ball.`,
      reason: 'Nothing is fed through: it comes out the way it went in.',
      mistakes: ['tailpiece-fell'],
      minutes: 0.1,
    };
  switch (build.tailEnd) {
    case 'pin-bridge':
      return {
        title: `Push the string in and lift out ${names.part('pin', position)}.`,
        detail: 'Lay the pins out in order: each has worn to its own string. Replace a worn one now.',
        reason: 'Pushing the string in frees the end jammed against the pin.',
        mistakes: ['pin-stuck'],
        tools: ['winder notch or pin puller'],
        minutes: 0.3,
      };
    case 'tie-block-6':
    case 'tie-block-12':
    case 'uke-tie':
      return {
        title: `Loosen the tie, push ${names.part('tail', position)} back through and draw it out.`,
        detail:
          'Check first how the next string is tied: the new one should match. An old tail still trapped by the next string waits until that one is off.',
        reason: 'Pulling instead of pushing tightens the tie.',
        mistakes: [],
        minutes: 0.2,
      };
    case 'uke-slot':
      return {
        title: `Push ${name} back and lift its knot out of the slot.`,
        reason: 'The knot comes out the way it went in.',
        mistakes: [],
        minutes: 0.25,
      };
    case 'through-body':
      return {
        title: `Push ${name} down through the body and pull it out at the back.`,
        detail: 'If a ferrule comes out with it, press it straight back in.',
        reason: 'It comes out at the back, where it went in.',
        mistakes: ['caught'],
        minutes: 0.25,
      };
    case 'rear-block':
      return {
        title: `Push ${name} out of the block from the front.`,
        detail: 'If it sticks, push the ball out gently with a straightened paper clip.',
        reason: 'A kinked end catches in the block.',
        mistakes: ['caught'],
        tools: ['paper clip'],
        minutes: 0.3,
      };
    case 'stop-tailpiece':
    case 'stop-tailpiece-wrapped':
      return {
        title: `Pull ${name} out through the tailpiece.`,
        detail: build.tailEnd === 'stop-tailpiece-wrapped' ? 'Straighten the bend over the top first.' : undefined,
        reason: 'A bent end scratches the plating.',
        mistakes: ['tailpiece-fell'],
        minutes: 0.2,
      };
    case 'wrap-around':
      return {
        title: `Pull ${name} out through the bridge.`,
        detail: 'Straighten the bend over the top first.',
        reason: 'A bent end scratches the plating.',
        mistakes: ['tailpiece-fell'],
        minutes: 0.2,
      };
    case 'loop-tailpiece':
      return {
        title: `Unhook ${name} from the tailpiece.`,
        detail: 'Lift it off its hook with a fingernail; note which finger or hole it goes through.',
        reason: 'The new one takes the same path.',
        mistakes: [],
        minutes: 0.25,
      };
    case 'tailpiece-plain':
    case 'tailpiece-fine-tuners':
      return {
        title: `Lift ${name} out of its slot in the tailpiece.`,
        detail: 'Keep a thumb on the tailpiece so it does not knock the top.',
        reason: 'Pulled out sideways, it wears the slot.',
        mistakes: ['bridge-tipped'],
        minutes: 0.25,
      };
  }
}

/** What comes off with one string, and what becomes of it. */
function partsOff({ build, job, order }: Situation, number: number): PartFate[] {
  const has = (e: (typeof build.extras)[number]) => build.extras.includes(e);
  const once = order[0]?.number === number;
  return [
    ...(has('pins') ? [{ part: 'bridge pin', fate: 'keep-in-place' as const, count: 1 }] : []),
    ...(has('ball-end-spacers') ? [{ part: 'ball-end spacers', fate: 'put-back' as const, count: 0 }] : []),
    ...(has('string-sleeves')
      ? [{ part: 'string sleeve', fate: job.kind === 'refit' ? ('move' as const) : ('discard' as const), count: 1 }]
      : []),
    ...(once && has('pickup-clip') ? [{ part: 'pickup clip', fate: 'move' as const, count: 1 }] : []),
    ...(once && has('felt-washer') ? [{ part: 'felt washer', fate: 'move' as const, count: 1 }] : []),
    ...(once && has('bridge-screws') ? [{ part: 'bridge screws’ side', fate: 'put-back' as const, count: 0 }] : []),
  ];
}
