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
      /Replace a worn one now/,
      /Snug any loose tuner nut or screw now/,
      /Do not trim yet: that comes after the last stretch/,
      /Hold the strings down at the 12th fret with one hand/,
      /Cutters flat to the post, tips away from the headstock/,
      /cut only the loose end, not the string that plays/,
      /forearm on the body; first wind by hand/,
      /Once slack, you can cut instead of unwinding/,
      /If an end is in the way, cut it roughly once it holds, leaving 25 to 50 mm/,
      /most nuts are 10 mm/,
      /a kink stays, a gentle curve settles/,
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
      /E2: on the bass side the post loosens clockwise.*E4: on the treble side the post loosens anticlockwise/,
      /Clean the board under E2 and E4/,
    ],
    never: [/Slacken them/],
  },
  {
    on: 'a classical guitar with rollers',
    family: 'classical',
    core: 'nylon',
    says: [
      /through the hole from above, back over the roller and under the string, so the first wind lies on the string end/,
      /Do not stack them/,
      /a pad under the cutters/,
      /The last tuck lies on the back face/,
      /An old tail still trapped by the next string waits/,
      /Snug any loose tuner screw now/,
    ],
    never: [
      /nut driver/,
      /most nuts are/,
      /rest under it: they clamp/,
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
    says: [/no polish on a skin/, /the 12th-fret octave decides/],
    never: [/Polish goes on the cloth/, /\d+ mm from nut to bridge/],
  },
  {
    on: 'a bass guitar under its string tree',
    family: 'bass-guitar',
    says: [
      /A first: nothing holds it down, so wind all of it/,
      /at the D string’s post or just beyond/,
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
      /tighten the lock by hand/,
      /Then let the twist out: free the ball so it can turn, and reseat it/,
    ],
    never: [/key for the lock/, /Pinch a crisp bend/],
  },
  {
    on: 'a double bass, two at a time from the outside',
    family: 'double-bass',
    way: { atATime: 2, order: 'outer-inward' },
    says: [
      /Slacken E1 and G2 \(strings 4 and 1\)/,
      /With E1 and G2 \(strings 4 and 1\) near pitch, check from the side: bridge still upright/,
      /The other two stay at pitch until these two are near pitch/,
    ],
    never: [/\btrim\b.*5 mm/i, /No second string off/],
  },
  {
    on: 'a double bass of which a string slips',
    family: 'double-bass',
    says: [/winds cross over the end/, /pass its end through the hole a second time/],
    never: [/cut if it was cut too short/],
  },
  {
    on: 'a steel-string guitar whose house locks ends under themselves',
    family: 'steel-acoustic',
    way: { winds: 'self-lock', slack: { kind: 'first-fret', times: 0.5 }, slackPlain: null },
    says: [
      /round the post against the winding direction, under the string, pull tight, fold up and back over it/,
      /let it back half a fret \(18 mm\)/,
      /From the middle of the headstock outwards/,
    ],
    never: [/the rest below it: they clamp/],
  },
  {
    on: 'a steel-string guitar on which plain strings go over once while wound ones spiral down',
    family: 'steel-acoustic',
    way: { winds: 'spiral-down', windsPlain: 'one-over' },
    says: [/Each wind goes below the last/, /First wind over the string end, the rest under it: they clamp it/],
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
      /Hang the tailpiece back on its studs with the strings threaded/,
      /Do not let go until the first string holds/,
    ],
    never: [/Tape the tailpiece/, /Only the tape holds it/],
  },
  {
    on: 'a tailpiece with open slots, held by a screw',
    family: 'electric',
    build: { tailEnd: 'stop-tailpiece', extras: ['tail-slotted', 'tailpiece-held'], head: 'split-sides' },
    says: [/Hang (each string|E2) .*by its ball in the open slot/, /Lift .* by the ball/],
    never: [/straight through the tailpiece/, /Tape the tailpiece/, /loose now/],
  },
  {
    on: 'a cover that slides, and a banjo’s fifth peg',
    family: 'banjo',
    build: { extras: ['tailpiece-cover', 'cover-slides'] },
    says: [/Slide the tailpiece cover off/, /at its own nut beside the 5th fret; turn its peg/],
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
      /Tie a small knot at the very end/,
      /tie that end/,
      /Keep retuning in the first hour/,
    ],
    never: [/tuck once/],
  },
  {
    on: 'a violin',
    family: 'violin',
    says: [
      /wind over the top, towards the pegbox wall/,
      /With G3 .* near pitch, check from the side: bridge still upright/,
    ],
    never: [/\bfrets?\b/, /Powered winder/, /\d+ mm from nut to bridge/, /Trim the/],
  },
  {
    on: 'a cello found with all strings slack',
    family: 'cello',
    kind: 'emergency',
    says: [
      /Is every string still hooked in the tailpiece\?/,
      /Back the fine tuners off/,
      /Start with any string that still holds/,
      /neatly against the pegbox wall/,
      /After each string, look from the side: the bridge must not tip forward/,
      /graphite at nut and bridge/,
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
