import { describe, expect, it } from 'vitest';
import { stringsFor } from '../../tests/support/builds';
import type { Build, Family } from '../instruments/build';
import { defaultBuild } from '../instruments/defaults';
import type { CoreMaterial } from '../strings/materials';
import { CAUTIONS } from './cautions';
import { composeProcedure } from './compose';
import { usualBuild } from './houseMethod';
import { screensOf, wordsOf } from './led';
import { HOUSE_METHODS } from './method';
import { MISTAKES } from './mistakes';
import { fillText } from './quantities';
import type { JobKind, Method, Step } from './types';

/**
 * What practitioners of each kind of instrument say a card must tell them, and what would make them put it away. All of
 * it common practice, no source. Read as: on this instrument, worked like this, the card says … and never ….
 */
interface Assertion {
  on: string;
  family: Family;
  build?: Partial<Build>;
  way?: Partial<Method>;
  kind?: JobKind;
  core?: CoreMaterial;
  says: RegExp[];
  never: RegExp[];
}

const TRADE: Assertion[] = [
  {
    on: 'a steel-string guitar',
    family: 'steel-acoustic',
    says: [
      /pinch it at the first fret, let it back one fret \(36 mm\)/,
      /ball in, pin after it, groove facing the nut/,
      /A worn one is changed now/,
      /A loose tuner nut or screw is snugged now/,
      /Do not trim yet: that comes after the last stretch/,
      /Hold the strings down at the 12th fret with one hand/,
      /cutter flat to the post, tips away from the head/,
      /cut only the loose end, not the string that plays/,
      /forearm on the body; first turn by hand/,
      /Once slack it may be cut through instead/,
      /An end in the way is cut roughly, 25 to 50 mm/,
      /nuts are mostly 10 mm/,
      /a kink stays, what is only flattened settles/,
      /Draw the string through its slot/,
      /Never pull a pin while its string is tight/,
    ],
    never: [/\d\.\d frets/, /standing string/, /own end/, /groove to the string/, /All sound\?/, /pull at pitch/i],
  },
  {
    on: 'two at a time: which two, and both ways to turn where they stand on both sides',
    family: 'steel-acoustic',
    way: { atATime: 2, order: 'outer-inward' },
    says: [
      /Slacken E2 and E4 \(strings 6 and 1\) completely/,
      /E2: on the bass side the post loosens clockwise.*E4: on the treble side the post loosens counter-clockwise/,
      /Clean the board under E2 and E4/,
    ],
    never: [/Slacken them/],
  },
  {
    on: 'a classical guitar with rollers',
    family: 'classical',
    core: 'nylon',
    says: [
      /Through the hole from above, back over the roller and under the string, so that the first turn lies on the tail/,
      /Stack none on another/,
      /a pad under the cutters/,
      /The last tuck lies on the back face/,
      /An old tail that its neighbour still traps waits/,
      /A loose tuner screw is snugged now/,
    ],
    never: [
      /nut driver/,
      /nuts are mostly/,
      /rest below it: they clamp/,
      /Never pull a pin/,
      /Set the hole/,
      /0\.\d frets/,
    ],
  },
  {
    on: 'a ukulele on friction pegs, all nylon',
    family: 'ukulele',
    core: 'nylon',
    build: { tuner: 'friction-peg' },
    says: [/let it back an inch \(25 mm\)/, /for the next string to trap/],
    never: [/Powered winder/, /Never pull a pin/, /\d frets/],
  },
  {
    on: 'a banjo with a skin head',
    family: 'banjo',
    says: [/no polish on a skin/, /the octave at the 12th fret decides/],
    never: [/Polish goes on the cloth/, /\d+ mm from nut to bridge/],
  },
  {
    on: 'a bass guitar under its string tree',
    family: 'bass-guitar',
    says: [
      /A first: nothing holds it down, so wind all of it/,
      /at the post of the D string or a little beyond/,
      /bend it 90°, then cut/,
    ],
    never: [/next post but two/, /least pull/],
  },
  {
    on: 'an electric with locks on top',
    family: 'electric',
    build: { tuner: 'locking-screw' },
    says: [
      /Loosen the thumb screws on top/,
      /close the lock by hand/,
      /Then let its twist out: free the ball so that it can turn, and seat it again/,
    ],
    never: [/key for the lock/, /Pinch a crisp bend/],
  },
  {
    on: 'a double bass, two at a time from the outside',
    family: 'double-bass',
    way: { atATime: 2, order: 'outer-inward' },
    says: [
      /Slacken E1 and G2 \(strings 4 and 1\)/,
      /bridge still upright after E1 and G2/,
      /The other two stay at pitch until these two are near pitch/,
    ],
    never: [/\btrim\b.*5 mm/i, /No second string off/],
  },
  {
    on: 'a double bass of which a string slips',
    family: 'double-bass',
    says: [/turns cross over the end/, /pass its end through the hole a second time/],
    never: [/cut if it was cut too short/],
  },
  {
    on: 'a steel-string guitar whose house locks ends under themselves',
    family: 'steel-acoustic',
    way: { winds: 'self-lock', slack: { kind: 'first-fret', times: 0.5 }, slackPlain: null },
    says: [
      /round the post against the winding, under the string, pulled tight, then up and back over it/,
      /let it back half a fret \(18 mm\)/,
      /From the middle of the head outwards/,
    ],
    never: [/the rest below it: they clamp/],
  },
  {
    on: 'a steel-string guitar on which plain strings go over once while wound ones spiral down',
    family: 'steel-acoustic',
    way: { winds: 'spiral-down', windsPlain: 'one-over' },
    says: [/Every turn goes below the last/, /The first turn passes above the tail, the rest below it: they clamp it/],
    never: [/Two turns above the tail/],
  },
  {
    on: 'a stop tailpiece that the house lifts off',
    family: 'electric',
    build: { tailEnd: 'stop-tailpiece', extras: ['bridge-screws'], head: 'split-sides' },
    way: { hanging: 'lifted' },
    says: [
      /Lift the tailpiece off its studs and lay it on a cloth/,
      /Hold the height posts while you wipe/,
      /Hang the tailpiece back on its studs, strings threaded/,
      /Do not let go before the first string holds/,
    ],
    never: [/Tape the tailpiece/, /Only the tape holds it/],
  },
  {
    on: 'a tailpiece with open slots, held by a screw',
    family: 'electric',
    build: { tailEnd: 'stop-tailpiece', extras: ['tail-slotted', 'tailpiece-held'], head: 'split-sides' },
    says: [/Hang the ball of each string in its open slot|Hang the ball of E2/, /Lift the ball of/],
    never: [/straight through the tailpiece/, /Tape the tailpiece/, /loose now/],
  },
  {
    on: 'a cover that slides, and a banjo’s fifth peg',
    family: 'banjo',
    build: { extras: ['tailpiece-cover', 'cover-slides'] },
    says: [/Slide the tailpiece cover off/, /under its own nut beside the fifth fret; turn its peg/],
    never: [/Flip the tailpiece cover/],
  },
  {
    on: 'a classical guitar, tied as this house ties',
    family: 'classical',
    core: 'nylon',
    way: { ties: { wound: 2, plain: 2, thinnest: 4, safetyKnot: true } },
    says: [
      /tuck twice/,
      /tuck 4 times/,
      /A small knot at the very end/,
      /that end is tied/,
      /In the first hour retune again and again/,
    ],
    never: [/tuck once/],
  },
  {
    on: 'a violin',
    family: 'violin',
    says: [/wind over the top towards the pegbox wall/, /Look from the side: bridge still upright after G3/],
    never: [/\bfrets?\b/, /Powered winder/, /\d+ mm from nut to bridge/, /Trim the/],
  },
  {
    on: 'a cello found with all strings slack',
    family: 'cello',
    kind: 'emergency',
    says: [
      /Is every string still hooked at the tail\?/,
      /Screw the fine tuners out/,
      /Whichever string still holds comes first/,
      /neatly against the pegbox wall/,
      /After each string look from the side: the bridge must not tip forward/,
      /Graphite at nut and bridge/,
    ],
    never: [/shrank.*geared/],
  },
];

function stepsOf(a: Assertion): Step[] {
  const usual = a.build ? defaultBuild(a.family, usualBuild(a.family).size) : usualBuild(a.family);
  const build = { ...usual, ...a.build };
  const made = composeProcedure(build, { ...HOUSE_METHODS[a.family], ...a.way }, stringsFor(build, a.core), {
    led: true,
    ...(a.kind ? { kind: a.kind } : {}),
  });
  if ('gaps' in made) throw new Error(made.gaps.map((g) => g.needs).join('; '));
  return made.procedure.steps;
}

/** Everything that stands on the card, as it is read, but for what stands under "why". */
function textOf(steps: readonly Step[]): string {
  const filled = (text: string | undefined, s: Step) =>
    fillText(text ?? '', s.numbers)
      .map((piece) => piece.text)
      .join('');
  return steps
    .map((s) =>
      [
        filled(s.title, s),
        filled(s.detail, s),
        s.notYet,
        s.gate,
        s.check?.question,
        s.check?.good,
        ...(s.stopIf ?? []),
        ...(s.tools ?? []),
        ...(s.cautions ?? []).map((c) => CAUTIONS[c]),
        // What goes wrong stands on the printed card, and is one key away on the screen.
        ...(s.mistakes ?? []).flatMap((m) => [MISTAKES[m].happens, ...MISTAKES[m].recovery]),
      ]
        .filter(Boolean)
        .join(' '),
    )
    .join('\n');
}

describe.each(TRADE)('$on', (a) => {
  const text = textOf(stepsOf(a));
  it.each(a.says)('says %s', (said) => expect(text).toMatch(said));
  it.each(a.never)('never says %s', (said) => expect(text).not.toMatch(said));
});

it('all off, then each string from its tail to near pitch before the next', () => {
  const steps = stepsOf({
    on: '',
    family: 'steel-acoustic',
    way: { atATime: 'all', finish: 'by-string' },
    says: [],
    never: [],
  });
  const at = (id: string, n: number) => steps.findIndex((s) => s.id === id && s.positions.includes(n));
  // All are off first, and the whole board lies free.
  expect(at('remove.tail', 1)).toBeLessThan(at('fit-tail.string', 6));
  expect(steps.some((s) => s.id === 'clean.board')).toBe(true);
  for (const [n, next] of [
    [6, 5],
    [5, 4],
    [2, 1],
  ] as const)
    expect(at('near-pitch.string', n)).toBeLessThan(at('fit-tail.string', next));
  const method = { ...HOUSE_METHODS['steel-acoustic'], finish: 'by-string' as const };
  const screens = screensOf({ steps, method }, 'phase').filter((s) => s.kind === 'one-string');
  expect(screens.map((s) => s.positions)).toEqual([[6], [5], [4], [3], [2], [1]]);
  for (const s of screens) expect(wordsOf(s).title).toHaveLength(1);
});
