import { describe, expect, it } from 'vitest';
import { everyBuild, stringsFor } from '../../tests/support/builds';
import type { Family } from '../instruments/build';
import { composeProcedure } from './compose';
import { usualBuild } from './houseMethod';
import { cautionsAt, LEADS, type Screen, screensOf, wordsOf } from './led';
import { HOUSE_METHODS } from './method';
import type { Method, Procedure } from './types';

function cardOf(family: Family, method: Partial<Method> = {}): Procedure {
  const build = usualBuild(family);
  const made = composeProcedure(build, { ...HOUSE_METHODS[family], ...method }, stringsFor(build), { led: true });
  if ('gaps' in made) throw new Error(made.gaps.map((g) => g.needs).join('; '));
  return made.procedure;
}

/** The kit is passed and what went on is recorded: a press each. */
const BESIDE = 2;

// What a technician would bear, counted from the kit to the record without mistakes. Common practice, no source.
it.each([
  ['steel-acoustic', 22],
  ['twelve-string', 24],
  ['classical', 22],
  ['electric', 24],
  ['bass-guitar', 20],
  ['ukulele', 22],
  ['banjo', 24],
  ['mandolin', 26],
  ['violin', 22],
  ['double-bass', 28],
] as const)('a full set on a %s takes at most %i presses by phase', (family, most) => {
  const card = cardOf(family);
  expect(screensOf(card, 'phase').length + BESIDE).toBeLessThanOrEqual(most);
  expect(screensOf(card, 'string')).toHaveLength(card.steps.length);
});

describe('every card that can be, by phase', () => {
  const cards = [...everyBuild(['right'])].flatMap((build) => {
    const made = composeProcedure(build, HOUSE_METHODS[build.family], stringsFor(build), { led: true });
    return 'procedure' in made ? [made.procedure] : [];
  });
  const all = cards.map((card) => ({ card, screens: screensOf(card, 'phase') }));

  it('has each step on one screen, none left out', () => {
    expect(cards.length).toBeGreaterThan(1000);
    for (const { card, screens } of all) {
      const shown = screens.flatMap((s) => s.steps.map((x) => x.key));
      expect(shown.sort()).toEqual(card.steps.map((s) => s.key).sort());
    }
  });

  it('folds no gate, stop, note or choice away', () => {
    for (const { screens } of all)
      for (const s of screens)
        if (s.steps.some((x) => x.gate || x.stopIf || x.note || x.choices || !x.undoable))
          expect(new Set(s.steps.map((x) => x.id)).size, s.key).toBe(1);
  });

  it('looks at a floating bridge after each string, and never at two strings first', () => {
    for (const { card, screens } of all) {
      if (card.method.atATime !== 1) continue;
      const off = screens.filter((s) => s.steps.some((x) => x.phase === 'remove'));
      for (const s of off) expect(s.positions).toHaveLength(1);
    }
    const violin = screensOf(cardOf('violin'), 'phase').map((s) => s.steps[0]?.id);
    for (const [i, id] of violin.entries()) if (id === 'near-pitch.bridge') expect(violin[i + 1]).not.toBe(id);
    expect(violin.filter((id) => id === 'near-pitch.bridge')).toHaveLength(4);
  });

  it('says no sentence twice on a screen of several strings, and names no single string in it', () => {
    for (const { screens } of all)
      for (const s of screens.filter((x) => x.kind === 'strings')) {
        const words = wordsOf(s);
        const texts = [...words.title, ...words.detail].map((said) => said.text);
        expect(new Set(texts).size, texts.join(' | ')).toBe(texts.length);
        for (const text of texts) expect(text).not.toMatch(/\(string \d/);
      }
  });

  it('shows a caution once a phase', () => {
    for (const { screens } of all) {
      let phase: Screen['phase'] | null = null;
      let seen = new Set<string>();
      for (const [i, s] of screens.entries()) {
        if (s.phase !== phase) seen = new Set();
        phase = s.phase;
        for (const caution of cautionsAt(screens, i)) {
          expect(seen.has(caution), `${s.key}: ${caution}`).toBe(false);
          seen.add(caution);
        }
      }
    }
  });

  it('stretches before it tunes finely, and only then trims what waits until strings have settled', () => {
    for (const { card } of all) {
      const at = (id: string) => card.steps.findIndex((s) => s.id === id);
      expect(at('stretch.rounds')).toBeLessThan(at('tune.all'));
      if (at('trim.ends') >= 0) expect(at('tune.all')).toBeLessThan(at('trim.ends'));
    }
  });
});

it('tells what differs from string to string beside each, and what does not once', () => {
  const posts = screensOf(cardOf('steel-acoustic'), 'phase').find((s) => s.phase === 'fit-post') as Screen;
  expect(posts).toMatchObject({ kind: 'strings', positions: [6, 5, 4, 3, 2, 1] });
  const { title } = wordsOf(posts);
  expect(title.map((said) => said.text)).toEqual([
    'Pull each string tight through its post, pinch it at the first fret, let it back as its row shows.',
    'Hold it in the nut slot and turn the post so the string leaves on the inside.',
  ]);
  const ties = screensOf(cardOf('classical'), 'phase').find((s) => s.phase === 'fit-tail') as Screen;
  // Basses hold with one turn; trebles take more. Common practice, no source.
  expect(wordsOf(ties).title.map((said) => said.only)).toEqual([
    [6, 5, 4],
    [3, 2, 1],
  ]);
});

it('two at a time are named together, and each way of being led has the same steps', () => {
  const card = cardOf('steel-acoustic', { atATime: 2 });
  const screens = screensOf(card, 'phase');
  expect(screens.find((s) => s.phase === 'slacken')?.steps[0]?.title).toContain('E2 and A2 (strings 6 and 5)');
  const keys = LEADS.map((lead) =>
    screensOf(card, lead)
      .flatMap((s) => s.steps.map((x) => x.key))
      .sort(),
  );
  expect(keys[1]).toEqual(keys[0]);
  expect(keys[2]).toEqual(keys[0]);
});
