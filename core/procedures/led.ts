import { sayList } from '../count';
import type { CautionId } from './cautions';
import { fillText, sayQuantity } from './quantities';
import { sectionsOf } from './sections';
import type { Phase, Procedure, Quantity, Step, StepWords } from './types';

/** The ways to be led through a card: an action of one string at a time, a phase at a time, or all on one page. */
export const LEADS = ['string', 'phase', 'brief'] as const;
export type Lead = (typeof LEADS)[number];

export const LEAD_NAMES: Record<Lead, string> = {
  string: 'string by string',
  phase: 'by phase',
  brief: 'brief',
};

/** One screen: what hands do before anything is said again. */
export interface Screen {
  /** That of its first step. */
  key: string;
  phase: Phase;
  /**
   * `step`: one step as it is; `strings`: one action on several strings, a row for each; `list`: several short steps of
   * one phase, a row for each; `one-string`: all of one string's way off and on, a row for each part of it.
   */
  kind: 'step' | 'strings' | 'list' | 'one-string';
  /** In the order in which they are ticked. */
  steps: Step[];
  /** The strings it is about, in working order. */
  positions: number[];
}

/**
 * Whether a step keeps a screen to itself however one is led: what cannot be undone, what stops the job, what has to be
 * written down or chosen, and the look at a bridge that may tip.
 */
const standsAlone = (s: Step): boolean =>
  !s.undoable ||
  s.gate !== undefined ||
  s.note !== undefined ||
  s.choices !== undefined ||
  s.stopIf !== undefined ||
  s.id === 'near-pitch.bridge';

const unique = <T>(list: readonly T[]): T[] => [...new Set(list)];

function screenOf(kind: Screen['kind'], steps: readonly Step[]): Screen {
  const [first] = steps as [Step];
  return {
    key: first.key,
    phase: first.phase,
    kind: steps.length === 1 ? 'step' : kind,
    steps: [...steps],
    positions: unique(steps.flatMap((s) => s.positions)),
  };
}

/** The screens of a card in working order. Every step of it is on one of them. */
export function screensOf(procedure: Pick<Procedure, 'method' | 'steps'>, lead: Lead): Screen[] {
  if (lead === 'string') return procedure.steps.map((s) => screenOf('step', [s]));
  return sectionsOf(procedure).flatMap((section) =>
    section.phase === null && section.positions.length === 1 ? oneString(section.steps) : byPhase(section.steps),
  );
}

/** The way of one string off and on: one screen, but for what stands alone. */
function oneString(steps: readonly Step[]): Screen[] {
  const screens: Screen[] = [];
  let run: Step[] = [];
  const close = () => {
    if (run.length > 0) screens.push(screenOf('one-string', run));
    run = [];
  };
  for (const s of steps) {
    if (standsAlone(s)) {
      close();
      screens.push(screenOf('step', [s]));
    } else run.push(s);
  }
  close();
  return screens;
}

/** Strings that are worked together: within each phase one screen for what is done on several, one for short steps. */
function byPhase(steps: readonly Step[]): Screen[] {
  const screens: Screen[] = [];
  const phases: Step[][] = [];
  for (const s of steps) {
    const current = phases.at(-1);
    if (current?.[0]?.phase === s.phase) current.push(s);
    else phases.push([s]);
  }
  for (const phase of phases) {
    // Steps of single strings: those that stand alone by their id, the others together, each at the place of its first.
    const rows = new Map<string, Step[]>();
    const order: (Step | string)[] = [];
    for (const s of phase) {
      if (s.positions.length !== 1 || !s.each) {
        order.push(s);
        continue;
      }
      const key = standsAlone(s) ? s.id : '';
      const known = rows.get(key);
      if (known) known.push(s);
      else {
        rows.set(key, [s]);
        order.push(key);
      }
    }
    let run: Step[] = [];
    const close = () => {
      if (run.length > 0) screens.push(screenOf('list', run));
      run = [];
    };
    for (const entry of order) {
      if (typeof entry === 'string') {
        close();
        screens.push(screenOf('strings', rows.get(entry) as Step[]));
      } else if (standsAlone(entry)) {
        close();
        screens.push(screenOf('step', [entry]));
      } else run.push(entry);
    }
    close();
  }
  return screens;
}

/** A sentence of a screen, and the strings it is for where it is not for all. */
export interface Said {
  text: string;
  numbers: Record<string, Quantity>;
  only: number[] | null;
}

export interface ScreenWords {
  /** What hands do, in order. */
  title: Said[];
  detail: Said[];
}

const sentences = (text: string | undefined): string[] =>
  text
    ?.match(/[^.!?]+(?:[.!?](?!\s|$)[^.!?]*)*[.!?]?\s*/g)
    ?.map((s) => s.trim())
    .filter(Boolean) ?? [];

/** A quantity of several strings as one: what it is for all, or from the least to the most. */
function together(quantities: readonly Quantity[]): Quantity {
  const [first] = quantities as [Quantity];
  if (quantities.every((q) => sayQuantity(q) === sayQuantity(first))) return first;
  return {
    ...first,
    value: Math.min(...quantities.map((q) => q.value)),
    to: Math.max(...quantities.map((q) => q.to ?? q.value)),
  };
}

/** What steps of several strings say, id by id: each sentence once, with its strings where it is not for all of them. */
function toldOnce(steps: readonly Step[], positions: readonly number[], of: (s: Step) => string | undefined): Said[] {
  const said: Said[] = [];
  for (const id of unique(steps.map((s) => s.id))) {
    const where = new Map<string, Step[]>();
    for (const s of steps)
      if (s.id === id) for (const text of sentences(of(s))) where.set(text, [...(where.get(text) ?? []), s]);
    for (const [text, own] of where) {
      const names = unique(own.flatMap((s) => Object.keys(s.numbers ?? {})));
      said.push({
        text,
        numbers: Object.fromEntries(names.map((name) => [name, together(own.flatMap((s) => s.numbers?.[name] ?? []))])),
        only: own.length < positions.length ? own.flatMap((s) => s.positions) : null,
      });
    }
  }
  return said;
}

/** What a screen of several strings says: each sentence once, with its strings where it is not for all of them. */
export function wordsOf(screen: Screen): ScreenWords {
  if (screen.kind !== 'strings') {
    const [only] = screen.steps as [Step];
    const numbers = only.numbers ?? {};
    return {
      title: [{ text: only.title, numbers, only: null }],
      detail: only.detail ? [{ text: only.detail, numbers, only: null }] : [],
    };
  }
  const words = (s: Step): StepWords => s.each ?? s;
  return {
    title: toldOnce(screen.steps, screen.positions, (s) => words(s).title),
    detail: toldOnce(screen.steps, screen.positions, (s) => words(s).detail),
  };
}

/** One thing that hands do, on paper: told once for all the strings it is done on. */
export interface CardLine {
  title: Said[];
  detail: Said[];
  /** Its steps, for what is asked, gated, stopped by or written down. */
  steps: Step[];
}

/** A part of a printed card. */
export interface CardPart {
  phase: Phase;
  /** Strings that go through all its lines one after the other; empty: the lines are done once. */
  inTurn: number[];
  lines: CardLine[];
}

/** A card on paper says what the screens say; what is the same for each string in turn is told once. */
export function printedParts(procedure: Pick<Procedure, 'method' | 'steps'>): CardPart[] {
  const parts: CardPart[] = [];
  let turn: Step[] = [];
  const close = () => {
    if (turn.length === 0) return;
    const inTurn = unique(turn.flatMap((s) => s.positions));
    const lines = unique(turn.map((s) => s.id)).map((id): CardLine => {
      const steps = turn.filter((s) => s.id === id);
      const words = (s: Step): StepWords => s.it ?? s;
      return {
        title: toldOnce(steps, inTurn, (s) => words(s).title),
        detail: toldOnce(steps, inTurn, (s) => words(s).detail),
        steps,
      };
    });
    parts.push({ phase: (turn[0] as Step).phase, inTurn, lines });
    turn = [];
  };
  for (const section of sectionsOf(procedure)) {
    if (section.phase === null && section.positions.length === 1) {
      turn.push(...section.steps);
      continue;
    }
    close();
    for (const screen of byPhase(section.steps)) {
      const own =
        screen.kind === 'strings'
          ? [{ ...wordsOf(screen), steps: screen.steps }]
          : screen.steps.map((s): CardLine => ({ ...wordsOf(screenOf('step', [s])), steps: [s] }));
      const last = parts.at(-1);
      if (last && last.inTurn.length === 0 && last.phase === screen.phase) last.lines.push(...own);
      else parts.push({ phase: screen.phase, inTurn: [], lines: own });
    }
  }
  close();
  return parts;
}

/** Which strings a sentence is for, as one would say it before it; empty where it is for all. */
export function whoseWords(
  said: Pick<Said, 'only'>,
  strings: readonly { number: number; note: string; wound: boolean }[],
): string {
  const { only } = said;
  if (!only) return '';
  for (const [wound, name] of [
    [true, 'Wound strings: '],
    [false, 'Plain strings: '],
  ] as const) {
    const kind = strings.filter((s) => s.wound === wound);
    if (kind.length === only.length && kind.every((s) => only.includes(s.number))) return name;
  }
  return `${sayList(only.map((n) => strings.find((s) => s.number === n)?.note ?? String(n)))}: `;
}

/** Sentences as they are read out, each with its strings before it where it is not for all. */
export function readOut(
  said: readonly Said[],
  strings: readonly { number: number; note: string; wound: boolean }[],
): string {
  const lower = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);
  return said
    .map((x) => {
      const whose = whoseWords(x, strings);
      const filled = fillText(whose ? lower(x.text) : x.text, x.numbers).map((p) => p.text);
      return `${whose}${filled.join('')}`;
    })
    .join(' ');
}

/** Numbers nobody needs at the bench: they stand under "why". */
const NOT_SHOWN: readonly string[] = ['count', 'pull', 'stack'];

/** The numbers of a screen by name: those that differ from string to string, and those that are the same for all. */
export function numbersOf(screen: Screen): {
  rows: string[];
  same: Record<string, Quantity>;
  label: Record<string, string>;
} {
  const byName = new Map<string, Quantity[]>();
  for (const s of screen.steps)
    for (const [name, q] of Object.entries(s.numbers ?? {}))
      if (!NOT_SHOWN.includes(name)) byName.set(name, [...(byName.get(name) ?? []), q]);
  const rows: string[] = [];
  const same: Record<string, Quantity> = {};
  const label: Record<string, string> = {};
  for (const [name, quantities] of byName) {
    const [first] = quantities as [Quantity];
    label[name] = first.label;
    const alike =
      quantities.length === screen.positions.length && quantities.every((q) => sayQuantity(q) === sayQuantity(first));
    if (screen.kind === 'strings' && !alike) rows.push(name);
    else same[name] = first;
  }
  return { rows, same, label };
}

/** The cautions of a screen that were not shown in its phase before: each once a phase. */
export function cautionsAt(screens: readonly Screen[], index: number): CautionId[] {
  const screen = screens[index];
  if (!screen) return [];
  const before = new Set<CautionId>();
  for (let i = index - 1; i >= 0 && screens[i]?.phase === screen.phase; i--)
    for (const s of screens[i]?.steps ?? []) for (const c of s.cautions ?? []) before.add(c);
  return unique(screen.steps.flatMap((s) => s.cautions ?? [])).filter((c) => !before.has(c));
}
