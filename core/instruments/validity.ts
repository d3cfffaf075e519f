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
    why.push('Double ball ends need a head without posts, which is not among the heads.');
  }
  if (!HEADS_OF[b.family].includes(b.head)) why.push(`A ${name} does not have ${part[b.head]}.`);
  if ((b.head === 'slotted') !== (b.tuner === 'roller'))
    why.push(
      `${part[b.tuner]} do not go with a head that has ${part[b.head]}: a slotted head has rollers, and only it.`,
    );
  else if (b.head !== 'slotted' && !TUNERS_OF[b.family].includes(b.tuner))
    why.push(`A ${name} does not have ${part[b.tuner]}.`);
  if (!TAILS_OF[b.family].includes(b.tailEnd)) why.push(`A ${name} does not have a ${tail.name}.`);
  if (!tail.ends.includes(b.stringEnd) && b.stringEnd !== 'double-ball')
    why.push(`A ${tail.name} takes no string with a ${part[b.stringEnd]}.`);
  if (b.stringEnd === 'knot' && isPinned(b.tailEnd) && b.family !== 'ukulele')
    why.push('Knots under bridge pins belong to ukuleles only.');
  if (b.stringEnd === 'knot' && b.tailEnd === 'tailpiece-plain' && !isBowed(b.family))
    why.push('Knotted gut in a tailpiece belongs to bowed instruments.');
  if (b.bridge === 'floating' && !tail.mayFloat)
    why.push(`A bridge over a ${tail.name} is fixed: nothing would hold it.`);
  if (b.bridge === 'fixed' && MUST_FLOAT.includes(b.family)) why.push(`The bridge of a ${name} floats.`);
  if (b.fingerboard !== 'bare-dark' && !FRETTED_GLOSS.includes(b.family))
    why.push(`The board of a ${name} is bare dark wood.`);
  const extra = (e: Build['extras'][number], possible: boolean, because: string) => {
    if (b.extras.includes(e) && !possible) why.push(because);
  };
  const mayHave = (e: Build['extras'][number]) => tail.brings.includes(e) || tail.mayHave.includes(e);
  for (const e of tail.brings) if (!b.extras.includes(e)) why.push(`A ${tail.name} has ${part[e]}.`);
  extra('pins', mayHave('pins'), 'Pins belong to a pin bridge.');
  extra('fine-tuners', mayHave('fine-tuners'), 'Fine tuners sit on a tailpiece made for them.');
  extra('bridge-screws', tail.screwed, `A ${tail.name} has no bridge screws.`);
  extra('ball-end-spacers', mayHave('ball-end-spacers'), `A ${tail.name} takes no ball-end spacers.`);
  extra('tailpiece-held', mayHave('tailpiece-held'), `A ${tail.name} does not hang on studs.`);
  extra('string-sleeves', isBowed(b.family), 'String sleeves protect the bridge of a bowed instrument.');
  extra('pickup-clip', isBowed(b.family) || b.family === 'banjo', 'A pickup clip sits on a floating bridge.');
  extra('felt-washer', isBowed(b.family), 'Felt washers belong to bowed strings.');
  extra('tail-slotted', mayHave('tail-slotted'), `A ${tail.name} has no open slots for the balls.`);
  extra('tailpiece-cover', mayHave('tailpiece-cover'), 'A tailpiece cover closes a hook tailpiece.');
  extra(
    'cover-slides',
    mayHave('cover-slides') && b.extras.includes('tailpiece-cover'),
    'Only a tailpiece cover slides off.',
  );
  extra('string-tree', b.head === 'in-line', 'A string tree stands on a head with its posts in line.');
  extra('capo-spikes', b.family === 'banjo', 'Capo spikes hold down a banjo’s fifth string.');
  return why;
}
