import { expect, it } from 'vitest';
import { everyBuild, stringsFor } from '../../tests/support/builds';
import { SYMPTOMS } from '../faults/symptoms';
import type { FaultFacts } from '../faults/types';
import type { Build } from '../instruments/build';
import { CAUTIONS } from '../procedures/cautions';
import { composeProcedure } from '../procedures/compose';
import { HOUSE_METHODS } from '../procedures/method';
import { isRedone, MISTAKES, type MistakeId, stopsFor } from '../procedures/mistakes';
import { JOB_KINDS } from '../procedures/types';
import { fitCreep } from '../settling/creep';
import { handoverFor } from '../settling/handover';
import { OVERNIGHT } from '../settling/overnight';
import { SAFETY, type SafetyTopicId } from './topics';

/** How each danger is spoken of, wherever it is. */
const SPEAKS_OF: [SafetyTopicId, RegExp][] = [
  ['soundpost', /soundpost (is down|has fallen|stands\?)|if it falls/i],
  ['lifting', /\bcrack|lifting bridge|bridge lifts|loose brace/i],
  ['all-slack', /all strings are slack|went slack at once/i],
];
/** What nobody may say of it: the opposite of what is to be done with the strings. Common practice, no source. */
const NEVER: Partial<Record<SafetyTopicId, RegExp>> = {
  lifting: /slacken nothing|tune (it )?up|tighten (it|all|the strings)/i,
  soundpost: /tune (it )?up|tighten|bring .* to pitch/i,
  'all-slack': /tune (it )?up before|tighten all/i,
};

const builds = [...everyBuild(['right'])].filter((_, i) => i % 19 === 0);
/** Every sentence that a person meets about dangers: cards, recoveries, cautions, hand-over notes. */
function sentences(): string[] {
  const found = new Set<string>(Object.values(CAUTIONS));
  for (const id of Object.keys(MISTAKES) as MistakeId[])
    found.add(`${MISTAKES[id].happens}. ${MISTAKES[id].recovery.join(' ')}`);
  for (const build of builds) {
    const strings = stringsFor(build);
    for (const line of handoverFor(build, { core: strings[0]?.core ?? 'steel', fit: fitCreep('steel', []) }).call)
      found.add(line);
    for (const kind of JOB_KINDS) {
      const one = kind === 'one-string' || kind === 'fast-path' ? strings.slice(0, 1) : strings;
      const composed = composeProcedure(build, HOUSE_METHODS[build.family], one, { kind });
      if ('procedure' in composed)
        for (const step of composed.procedure.steps) for (const line of step.stopIf ?? []) found.add(line);
    }
  }
  return [...found];
}

it('says of a danger the same thing on the card, in the recovery, in the caution and in the hand-over note', () => {
  const all = sentences();
  for (const [topic, speaks] of SPEAKS_OF) {
    const about = all.filter((line) => speaks.test(line));
    expect(about.length, topic).toBeGreaterThan(0);
    for (const line of about) if (NEVER[topic]) expect(line).not.toMatch(NEVER[topic]);
  }
  // A lifting bridge or a crack: evenly slack, then stopped; the recovery and the note to the player say so alike.
  const act = SAFETY.lifting.meanwhile;
  expect(act).toMatch(/^Slacken all strings evenly/);
  expect(MISTAKES['needs-repair'].recovery).toContain(act);
  for (const build of builds)
    expect(handoverFor(build, { core: 'steel', fit: fitCreep('steel', []) }).call.join(' ')).toContain(act);
});

it('refers with words that fit what is done: nut work stays at pitch, a crack is slackened, a fallen post has no tension', () => {
  const build = builds.find((b) => b.tailEnd === 'pin-bridge') as Build;
  const bowed = builds.find((b) => b.family === 'violin') as Build;
  const facts = (b: Build): FaultFacts => ({
    build: b,
    strings: b.positions.map((p) => ({
      number: p.number,
      core: 'steel',
      wound: true,
      gaugeMm: 1,
      hoursOn: 900,
      changedKind: true,
      timesBefore: 3,
    })),
    number: b.positions[0]?.number ?? 1,
    lastMethod: null,
    dryRoom: null,
    turns: 3,
    lifeUsed: 0.5,
  });
  const referrals = [build, bowed].flatMap((b) =>
    SYMPTOMS.flatMap((s) => s.causes.map((c) => ({ id: c.id, next: c.next(facts(b)) }))).filter(
      (c) => c.next.kind === 'referral',
    ),
  );
  expect(referrals.length).toBeGreaterThan(8);
  for (const { id, next } of referrals) {
    if (next.kind !== 'referral') continue;
    expect(next.topic, id).toBeDefined();
    const said = SAFETY[next.topic as SafetyTopicId];
    if (/nut|fret|saddle|sticks-at|sharp-edge|sticks-in-nut/.test(id)) expect(said.strings, id).toBe('at-pitch');
    if (id === 'bridge-lifts') expect(said.strings).toBe('slacken');
    // No note asks for no tension where the work is judged under tension.
    if (said.strings === 'at-pitch') expect(said.meanwhile).not.toMatch(/no tension|slacken/i);
  }
});

it('says of strings that give for days one thing, in the same words, at the visit, in the recovery and at the fault desk', () => {
  const build = builds.find((b) => b.family === 'classical') as Build;
  const visit = composeProcedure(build, HOUSE_METHODS.classical, stringsFor(build, 'nylon'), { kind: 'retune' });
  const said = [
    ...('procedure' in visit ? visit.procedure.steps.map((s) => s.detail ?? '') : []),
    ...Object.values(MISTAKES).flatMap((m) => [...m.recovery]),
    ...SYMPTOMS.flatMap((s) => s.causes.map((c) => c.normal)),
  ].filter((text) => /overnight|next morning|whole tone|whole step/i.test(text));
  expect(said.length).toBeGreaterThanOrEqual(3);
  for (const text of said) expect(text).toContain(OVERNIGHT);
});

it('makes light of nothing that concerns the instrument itself', () => {
  for (const id of ['needs-repair', 'soundpost-down', 'unknown-part', 'bridge-tipped', 'tailpiece-fell'] as const)
    expect(isRedone(id), id).toBe(false);
  expect(stopsFor('soundpost-down')).toBe('soundpost');
  expect(isRedone('winds-cross')).toBe(true);
});

it('gives a bridge no place from the catalogue: only a length noted for this instrument, else marks, frets or nicks', () => {
  for (const build of builds.filter((b) => b.bridge === 'floating')) {
    const text = (b: Build): string =>
      JOB_KINDS.flatMap((kind) => {
        const strings = stringsFor(b);
        const one = kind === 'one-string' || kind === 'fast-path' ? strings.slice(0, 1) : strings;
        const composed = composeProcedure(b, HOUSE_METHODS[b.family], one, { kind });
        return 'procedure' in composed
          ? composed.procedure.steps
              .filter((s) => /bridge|look\.note/.test(s.id))
              .map((s) => `${s.title} ${s.detail ?? ''} ${s.check?.good ?? ''} ${JSON.stringify(s.numbers ?? {})}`)
          : [];
      }).join('\n');
    expect(text(build)).not.toMatch(/Nut to bridge"|String length"|within a millimetre/i);
    expect(text(build)).not.toContain(`"value":${build.scaleMm}`);
    expect(text(build)).toMatch(build.family === 'banjo' || build.family === 'mandolin' ? /octave/i : /marks/);
    const noted = text({ ...build, noted: { lengthMm: build.scaleMm - 3.5, on: '2026-03-01' } });
    expect(noted).toContain(`"value":${build.scaleMm - 3.5}`);
  }
});
