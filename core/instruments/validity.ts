import { isPinned, TAIL_END } from '../parts/tailEnds';
import type { CoreMaterial } from '../strings/materials';
import type { Build, Family, TailEnd, Tuner } from './build';
import { BOWED, FAMILY_NAMES, isBowed, PART_NAMES } from './build';

type Parts = Pick<Build, 'family' | 'head' | 'tuner' | 'tailEnd' | 'bridge' | 'stringEnd' | 'fingerboard' | 'extras'>;

const POSTS: readonly Tuner[] = ['plain-post', 'slotted-post', 'locking-thumbwheel', 'locking-screw'];

/** The heads a family comes with. Common practice, no source. */
const HEADS_OF: Record<Family, readonly Build['head'][]> = {
  'steel-acoustic': ['split-sides', 'in-line', 'slotted'],
  'twelve-string': ['split-sides', 'in-line', 'slotted'],
  classical: ['slotted', 'split-sides'],
  electric: ['split-sides', 'in-line'],
  'bass-guitar': ['split-sides', 'in-line'],
  ukulele: ['split-sides', 'slotted'],
  banjo: ['fifth-peg'],
  mandolin: ['split-sides', 'slotted'],
  violin: ['pegbox'],
  viola: ['pegbox'],
  cello: ['pegbox'],
  'double-bass': ['pegbox'],
};

const TUNERS_OF: Record<Family, readonly Tuner[]> = {
  'steel-acoustic': POSTS,
  'twelve-string': POSTS,
  classical: ['plain-post', 'friction-peg', 'planetary'],
  electric: POSTS,
  'bass-guitar': POSTS,
  ukulele: ['plain-post', 'friction-peg', 'planetary'],
  banjo: ['plain-post', 'friction-peg', 'planetary'],
  mandolin: ['plain-post', 'slotted-post'],
  violin: ['tapered-peg', 'planetary'],
  viola: ['tapered-peg', 'planetary'],
  cello: ['tapered-peg', 'planetary'],
  'double-bass': ['worm-gear'],
};

const ELECTRIC_TAILS: readonly TailEnd[] = [
  'through-body',
  'rear-block',
  'stop-tailpiece',
  'stop-tailpiece-wrapped',
  'wrap-around',
  'tailpiece-plain',
];
const TAILS_OF: Record<Family, readonly TailEnd[]> = {
  'steel-acoustic': ['pin-bridge', 'tailpiece-plain'],
  'twelve-string': ['pin-bridge', 'tailpiece-plain'],
  classical: ['tie-block-6', 'tie-block-12'],
  electric: ELECTRIC_TAILS,
  'bass-guitar': ['through-body', 'rear-block', 'stop-tailpiece', 'tailpiece-plain'],
  ukulele: ['uke-tie', 'uke-slot', 'pin-bridge'],
  banjo: ['loop-tailpiece'],
  mandolin: ['loop-tailpiece', 'tailpiece-plain'],
  violin: ['tailpiece-plain', 'tailpiece-fine-tuners'],
  viola: ['tailpiece-plain', 'tailpiece-fine-tuners'],
  cello: ['tailpiece-plain', 'tailpiece-fine-tuners'],
  'double-bass': ['tailpiece-plain', 'tailpiece-fine-tuners'],
};

const MUST_FLOAT: readonly Family[] = [...BOWED, 'banjo'];
const FRETTED_GLOSS: readonly Family[] = [
  'steel-acoustic',
  'twelve-string',
  'electric',
  'bass-guitar',
  'ukulele',
  'mandolin',
];
/** Cores that strings of a family are made with. */
export const CORES_OF: Record<Family, readonly CoreMaterial[]> = {
  'steel-acoustic': ['steel'],
  'twelve-string': ['steel'],
  classical: ['nylon', 'fluorocarbon', 'gut', 'composite'],
  electric: ['steel'],
  'bass-guitar': ['steel'],
  ukulele: ['nylon', 'fluorocarbon', 'gut'],
  banjo: ['steel', 'nylon'],
  mandolin: ['steel'],
  violin: ['steel', 'rope', 'composite', 'gut'],
  viola: ['steel', 'rope', 'composite', 'gut'],
  cello: ['steel', 'rope', 'composite', 'gut'],
  'double-bass': ['steel', 'rope', 'composite', 'gut'],
};

/** Parts a family is never built with, whatever its other parts are; the rest of the build decides about others. */
export function partsNotOfFamily(b: Parts): ('head' | 'tuner' | 'tailEnd')[] {
  return [
    ...(HEADS_OF[b.family].includes(b.head) ? [] : (['head'] as const)),
    ...(b.head === 'slotted' || b.tuner === 'roller' || TUNERS_OF[b.family].includes(b.tuner)
      ? []
      : (['tuner'] as const)),
    ...(TAILS_OF[b.family].includes(b.tailEnd) ? [] : (['tailEnd'] as const)),
  ];
}

/**
 * Why these parts cannot be on one instrument, each reason a sentence; empty when they can. Common practice, no
 * source: what is really there and not known here is photographed and asked about, not forced.
 */
export function impossibleBecause(b: Parts): string[] {
  const why: string[] = [];
  const name = FAMILY_NAMES[b.family].toLowerCase();
  const part = PART_NAMES;
  const tail = TAIL_END[b.tailEnd];
  if (b.stringEnd === 'double-ball') {
    why.push('Double-ball strings fit only headless instruments, which are not supported yet.');
  }
  const foreign = partsNotOfFamily(b);
  if (foreign.includes('head'))
    why.push(`This kind of instrument (${name}) does not have this headstock: ${part[b.head]}.`);
  if ((b.head === 'slotted') !== (b.tuner === 'roller'))
    why.push(
      `This headstock (${part[b.head]}) does not take ${part[b.tuner]}: a slotted headstock takes rollers, and no other headstock does.`,
    );
  else if (foreign.includes('tuner'))
    why.push(`This kind of instrument (${name}) does not have these tuners: ${part[b.tuner]}.`);
  if (foreign.includes('tailEnd'))
    why.push(`This kind of instrument (${name}) does not have this string anchor: ${tail.name}.`);
  if (!tail.ends.includes(b.stringEnd) && b.stringEnd !== 'double-ball')
    why.push(`A ${tail.name} does not take strings with a ${part[b.stringEnd]}.`);
  if (b.stringEnd === 'knot' && isPinned(b.tailEnd) && b.family !== 'ukulele')
    why.push('Only ukuleles have knotted strings under bridge pins.');
  if (b.stringEnd === 'knot' && b.tailEnd === 'tailpiece-plain' && !isBowed(b.family))
    why.push('Only bowed instruments have knotted gut in the tailpiece.');
  if (b.bridge === 'floating' && !tail.mayFloat) why.push(`With a ${tail.name}, the bridge is fixed, not floating.`);
  if (b.bridge === 'fixed' && MUST_FLOAT.includes(b.family))
    why.push(`This kind of instrument (${name}) has a floating bridge.`);
  if (b.fingerboard !== 'bare-dark' && !FRETTED_GLOSS.includes(b.family))
    why.push(`This kind of instrument (${name}) has a bare dark fingerboard.`);
  const extra = (e: Build['extras'][number], possible: boolean, because: string) => {
    if (b.extras.includes(e) && !possible) why.push(because);
  };
  const mayHave = (e: Build['extras'][number]) => tail.brings.includes(e) || tail.mayHave.includes(e);
  for (const e of tail.brings) if (!b.extras.includes(e)) why.push(`A ${tail.name} has ${part[e]}.`);
  extra('pins', mayHave('pins'), 'Only a pin bridge has pins.');
  extra('fine-tuners', mayHave('fine-tuners'), 'Fine tuners go with a tailpiece that has them.');
  extra('bridge-screws', tail.screwed, `A ${tail.name} has no adjusting screws.`);
  extra('ball-end-spacers', mayHave('ball-end-spacers'), `A ${tail.name} takes no ball-end spacers.`);
  extra(
    'tailpiece-held',
    mayHave('tailpiece-held'),
    `A ${tail.name} does not hang on studs, so no screw or clip holds it.`,
  );
  extra('string-sleeves', isBowed(b.family), 'Only bowed instruments have string sleeves.');
  extra(
    'pickup-clip',
    isBowed(b.family) || b.family === 'banjo',
    'Only a bowed instrument or a banjo has a pickup clip.',
  );
  extra('felt-washer', isBowed(b.family), 'Only bowed instruments have felt washers.');
  extra('tail-slotted', mayHave('tail-slotted'), `A ${tail.name} has no open slots for ball ends.`);
  extra('tailpiece-cover', mayHave('tailpiece-cover'), 'Only a hook tailpiece has a cover.');
  extra(
    'cover-slides',
    mayHave('cover-slides') && b.extras.includes('tailpiece-cover'),
    '“Cover slides off” needs a tailpiece cover.',
  );
  extra('string-tree', b.head === 'in-line', 'A string tree belongs on a headstock with all tuners in line.');
  extra('capo-spikes', b.family === 'banjo', 'Only a banjo has capo spikes.');
  return why;
}
