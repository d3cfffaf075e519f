import type { Build } from '../instruments/build';
import { SIZES } from '../instruments/build';
import { defaultBuild } from '../instruments/defaults';
import { composeProcedure, LIBRARY } from './compose';
import { HOUSE_METHODS } from './method';
import { compareLoads } from './schools';
import {
  type Method,
  PHASE_NAMES,
  type Phase,
  type Procedure,
  type Step,
  type StepWords,
  type StringToFit,
} from './types';
import { groupLabel } from './words';

/** A step of the programme's own, done once for the instrument. */
export interface HouseStep {
  /** Unique within the house method. */
  id: string;
  phase: Phase;
  title: string;
  detail: string;
  reason: string;
  minutes: number;
  /** A question that has to be answered with yes; empty: none. */
  question: string;
}

/** All that a programme decides for a family, as one version. */
export interface House {
  method: Method;
  /** The programme's words for steps of the library, by step id. Empty fields keep the usual words. */
  wording: Record<string, { title?: string; detail?: string }>;
  steps: HouseStep[];
}

export const newHouse = (family: Build['family']): House => ({ method: HOUSE_METHODS[family], wording: {}, steps: [] });

const namesIn = (text: string): string[] => [...text.matchAll(/\{([a-zA-Z]+)\}/g)].map((m) => m[1] as string);

/** `{string}` and `{strings}` stand for the string or strings a step works on. */
const LABELS = ['string', 'strings'];

function reword(build: Build, step: Step, words: { title?: string; detail?: string }): Step {
  const positions = build.positions.filter((p) => step.positions.includes(p.number));
  const label = positions.length ? groupLabel(build, positions) : 'the strings';
  const fits = (text: string | undefined) =>
    text?.trim() && namesIn(text).every((name) => LABELS.includes(name) || step.numbers?.[name])
      ? text.trim()
      : undefined;
  // A number this step does not have here falls back to the usual words rather than leaving a hole on the bench.
  const put = (text: string | undefined, called: string) => fits(text)?.replace(/\{strings?\}/g, called);
  const inWords = <W extends StepWords>(usual: W, called: string): W => {
    const title = put(words.title, called);
    const detail = put(words.detail, called);
    return { ...usual, ...(title ? { title } : {}), ...(detail ? { detail } : {}) };
  };
  return {
    ...inWords(step, label),
    ...(step.each ? { each: inWords(step.each, 'each string') } : {}),
    ...(step.it ? { it: inWords(step.it, 'it') } : {}),
  };
}

/** A composed procedure in the programme's own words, with its own steps at the end of their phase. */
export function applyHouse(build: Build, procedure: Procedure, house: Pick<House, 'wording' | 'steps'>): Procedure {
  const steps = procedure.steps.map((step) => {
    const words = house.wording[step.id];
    return words ? reword(build, step, words) : step;
  });
  for (const own of house.steps) {
    const last = steps.map((s) => s.phase).lastIndexOf(own.phase);
    // A phase that this job does not have has nothing to add to.
    if (last < 0) continue;
    steps.splice(last + 1, 0, {
      key: `house.${own.id}`,
      id: `house.${own.id}`,
      phase: own.phase,
      positions: [],
      undoable: true,
      house: true,
      title: own.title,
      ...(own.detail ? { detail: own.detail } : {}),
      reason: own.reason,
      ...(own.question
        ? { check: { question: own.question, good: own.detail || own.title, ifNot: 'needs-repair' as const } }
        : {}),
      minutes: own.minutes,
    });
  }
  return { ...procedure, steps, minutes: steps.reduce((sum, s) => sum + s.minutes, 0) };
}

/** Whether the words of a step say which strings it works on. */
function namesItsStrings(build: Build, step: Step): boolean {
  const positions = build.positions.filter((p) => step.positions.includes(p.number));
  return positions.length > 0 && step.title.toLowerCase().includes(groupLabel(build, positions).toLowerCase());
}

/**
 * What is wrong with a house method before it is kept, each a sentence that says what to do; empty when nothing is.
 * @param examples strings to try it with, for each of the family's usual builds
 */
export function problemsOf(build: Build, house: House, strings: readonly StringToFit[]): string[] {
  const problems: string[] = [];
  const asChosen = compareLoads(build, house.method, strings).find((row) => row.atATime === house.method.atATime);
  if (asChosen?.refused) problems.push(`${asChosen.name}: ${asChosen.refused}`);
  const composed = composeProcedure(build, house.method, strings);
  const steps = 'procedure' in composed ? composed.procedure.steps : [];
  if ('gaps' in composed) problems.push(...composed.gaps.map((g) => g.needs));
  for (const [id, words] of Object.entries(house.wording)) {
    const definition = LIBRARY.find((d) => d.id === id);
    if (!definition) {
      problems.push(`Step “${id}” no longer exists. Delete its wording.`);
      continue;
    }
    const here = steps.filter((s) => s.id === id);
    for (const text of [words.title, words.detail]) {
      if (!text?.trim()) continue;
      const known = [...new Set(here.flatMap((s) => Object.keys(s.numbers ?? {})))];
      const unknown = namesIn(text).filter(
        (name) => !LABELS.includes(name) && here.length > 0 && !known.includes(name),
      );
      for (const name of unknown)
        problems.push(
          `“${text}” uses {${name}}, but this step has ${known.length ? known.map((k) => `{${k}}`).join(', ') : 'no figures'}.`,
        );
      if (/[{}]/.test(text.replace(/\{[a-zA-Z]+\}/g, ''))) problems.push(`“${text}” has a curly bracket missing.`);
    }
    if (
      words.title?.trim() &&
      // A step whose usual words name no string needs none in its own either.
      here.some((s) => namesItsStrings(build, s)) &&
      !namesIn(words.title).some((n) => LABELS.includes(n))
    )
      problems.push(`“${words.title}” does not say which string: put {string} in it.`);
  }
  const ids = house.steps.map((s) => s.id);
  for (const step of house.steps) {
    if (!step.title.trim()) problems.push('Write what to do in this step.');
    if (!step.reason.trim()) problems.push(`“${step.title}” needs a short reason, so people know why.`);
    if (!(step.minutes > 0 && step.minutes <= 60))
      problems.push(`Give “${step.title}” a time between 0.1 and 60 minutes.`);
    if (!(step.phase in PHASE_NAMES)) problems.push(`Choose a phase for “${step.title}”.`);
  }
  if (new Set(ids).size !== ids.length) problems.push('Two of your own steps have the same name.');
  return problems;
}

/** The usual build of a family in its usual size. */
export const usualBuild = (family: Build['family']): Build => defaultBuild(family, SIZES[family][0] as string);
