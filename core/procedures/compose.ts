import type { Build, Position } from '../instruments/build';
import { PART_NAMES } from '../instruments/build';
import { impossibleBecause } from '../instruments/validity';
import { loadDuring, refuseLoad } from '../load/during';
import { CALLS_FOR, type CautionId } from './cautions';
import { CLEAN } from './library/clean';
import { FINISH } from './library/finish';
import { LOOK } from './library/look';
import { POST } from './library/post';
import { PREPARE } from './library/prepare';
import { REMOVE } from './library/remove';
import { TAIL } from './library/tail';
import { VISITS } from './library/visits';
import { adaptMethod, isTrimmed, workingOrder } from './method';
import { markThinnestWound, type StringNumbers, sharedSlackMm, stringNumbers, woundWhole } from './numbers';
import {
  type Capability,
  CHANGE_KINDS,
  type Gap,
  isChange,
  JOB_KIND_NAMES,
  type JobContext,
  type JobKind,
  type Method,
  type PartFate,
  PHASES,
  type Phase,
  type Procedure,
  type Situation,
  type Step,
  type StepBody,
  type StepDefinition,
  type StepWords,
  type StringToFit,
} from './types';
import { namesFor } from './words';

/** All steps there are. What a step is called stays the same for ever: house wording and records refer to it. */
export const LIBRARY: readonly StepDefinition[] = [
  ...LOOK,
  ...PREPARE,
  ...REMOVE,
  ...CLEAN,
  ...TAIL,
  ...POST,
  ...FINISH,
  ...VISITS,
];

/** The kind of change that this many strings make. */
export function changeKind(build: Pick<Build, 'positions'>, strings: number): JobKind {
  return strings === build.positions.length ? 'full-set' : strings === 1 ? 'one-string' : 'part-set';
}

/** The usual kinds: every change in which there is time to do it properly. */
const UNHURRIED = CHANGE_KINDS.filter((kind) => kind !== 'fast-path');

/** Whether the library has a use for a step on this build in this kind of job. */
export function isFor(d: StepDefinition, build: Build, method: Method, kind: JobKind): boolean {
  return (d.kinds ?? UNHURRIED).includes(kind) && (d.when?.(build, method) ?? true);
}

/** What a change on this build needs steps for, with the part that asks for it. */
function needsOf(build: Build, kind: JobKind, cuts: boolean): Gap[] {
  const part = PART_NAMES;
  const needs: Gap[] = [
    { capability: 'protect', needs: 'laying it down' },
    { capability: 'slacken', needs: `slackening with a ${part[build.bridge]}` },
    { capability: 'release-post', needs: `taking a string off ${part[build.tuner]}` },
    { capability: 'release-tail', needs: `taking a string out of a ${part[build.tailEnd]}` },
    { capability: 'seat-tail', needs: `fitting a string to a ${part[build.tailEnd]}` },
    { capability: 'wind-post', needs: `winding on ${part[build.tuner]}` },
    { capability: 'bring-to-pitch', needs: 'tuning' },
    { capability: 'check', needs: 'the last checks' },
  ];
  if (kind !== 'fast-path')
    needs.push({ capability: 'clean', needs: 'cleaning' }, { capability: 'stretch', needs: 'stretching' });
  if (cuts && isTrimmed(build, kind)) needs.push({ capability: 'trim', needs: 'trimming' });
  if (build.bridge === 'floating')
    needs.push({ capability: 'hold-bridge', needs: 'keeping a floating bridge in its place' });
  if (build.extras.includes('tailpiece-cover'))
    needs.push({ capability: 'open-cover', needs: 'opening the tailpiece cover' });
  if (build.extras.includes('fine-tuners'))
    needs.push({ capability: 'move-fine-tuners', needs: 'setting the fine tuners' });
  return needs;
}

/** Phases done once, then those repeated for each group of strings that is off together, then the rest once. */
const FIRST_REPEATED = PHASES.indexOf('slacken');
const FIRST_ON = PHASES.indexOf('fit-tail');
const FIRST_AFTER = PHASES.indexOf('stretch');

/** Cautions that a phase always carries. */
const PHASE_CAUTIONS: Partial<Record<Phase, readonly CautionId[]>> = {
  slacken: ['hand-over'],
  remove: ['sharp-ends'],
  'near-pitch': ['face-away'],
  tune: ['face-away'],
  stretch: ['face-away'],
};

/** Whether a caution can be about this instrument and its strings at all. */
function canApply(strings: readonly StringToFit[]): (caution: CautionId) => boolean {
  // Bare nylon and gut prick nobody; steel, and what is wound with metal, does.
  const sharp = strings.length === 0 || strings.some((s) => s.wound || ['steel', 'rope'].includes(s.core));
  return (caution) => caution !== 'sharp-ends' || sharp;
}

/** The cautions of a step: its own, its phase's, and those its tools and materials call for, each once. */
function cautionsOf(phase: Phase, body: StepBody, applies: (caution: CautionId) => boolean): CautionId[] {
  const cautions: CautionId[] = [];
  const add = (more: readonly CautionId[] = []) => {
    for (const c of more) if (!cautions.includes(c) && applies(c)) cautions.push(c);
  };
  add(body.cautions);
  add(PHASE_CAUTIONS[phase]);
  for (const tool of body.tools ?? []) add(CALLS_FOR[tool]);
  for (const material of body.consumables ?? []) add(CALLS_FOR[material]);
  return cautions;
}

const unique = <T>(list: readonly T[]): T[] => [...new Set(list)];

export type Composed = { procedure: Procedure } | { gaps: Gap[] };

/**
 * The steps of a job on one instrument: chosen from the library by the instrument's parts and the kind of job,
 * repeated for the strings that are off together, with this instrument's numbers.
 *
 * @param house the method chosen for the family; the instrument's parts adapt it, and the answer says where and why
 * @param strings what goes on, one entry for each position that is changed; for a visit the strings that are on
 * @param job the kind of job (by default the change that so many strings make), how the strings that come off were put
 *   on, and the change of set, where they are known
 * @returns the procedure, or why there is none: parts that cannot be together, or a way of working that is not safe
 * @throws RangeError when a change names no string, or a position the instrument does not have
 */
export function composeProcedure(
  build: Build,
  house: Method,
  strings: readonly StringToFit[],
  job: Partial<JobContext> = {},
): Composed {
  const impossible = impossibleBecause(build);
  if (impossible.length > 0) return { gaps: impossible.map((needs) => ({ capability: 'check', needs })) };
  const byNumber = new Map(markThinnestWound(strings).map((s) => [s.number, s]));
  const changed = build.positions.filter((p) => byNumber.has(p.number));
  const context: JobContext = {
    kind: job.kind ?? changeKind(build, changed.length),
    last: job.last ?? null,
    change: job.change ?? null,
    a4Hz: job.a4Hz ?? 440,
    led: job.led ?? false,
  };
  const { kind } = context;
  if (changed.length !== byNumber.size || (isChange(kind) && changed.length === 0)) {
    throw new RangeError('Choose at least one string, and only strings this instrument has.');
  }

  const { method, because } = adaptMethod(build, house, kind);
  const order = workingOrder(build, changed, method.order);
  const size = method.atATime === 'all' ? Math.max(1, order.length) : method.atATime;
  const groups: Position[][] = [];
  for (let i = 0; i < order.length; i += size) groups.push(order.slice(i, i + size));
  const refused = isChange(kind) ? refuseGroups(build, method, byNumber, groups) : null;
  if (refused) return { gaps: [{ capability: 'hold-bridge', needs: refused }] };

  const shared = new Map<boolean, number | null>();
  const names = {
    named: namesFor(build, 'named'),
    each: namesFor(build, 'each'),
    it: namesFor(build, 'it'),
  };
  const known = new Map<number, StringNumbers>();
  const base = {
    build,
    method,
    strings: [...byNumber.values()],
    job: context,
    order,
    names: names.named,
    numbersOf: (position: Position, string: StringToFit) => {
      const numbers =
        known.get(position.number) ??
        stringNumbers(build, method, position, string, context.a4Hz, undefined, shared.get(string.wound) ?? undefined);
      known.set(position.number, numbers);
      return numbers;
    },
  };
  // One number for the wound strings and one for the plain, wherever the house rule will not do.
  for (const wound of [true, false]) {
    const alike = order.filter((p) => byNumber.get(p.number)?.wound === wound);
    shared.set(wound, sharedSlackMm(alike.map((p) => base.numbersOf(p, byNumber.get(p.number) as StringToFit))));
  }
  if ([...shared.values()].some((mm) => mm !== null)) known.clear();
  const applies = canApply(strings);
  const usable = new Map<Phase, StepDefinition[]>(PHASES.map((phase) => [phase, []]));
  for (const d of LIBRARY) if (isFor(d, build, method, kind)) usable.get(d.phase)?.push(d);
  const steps: Step[] = [];
  const provided = new Set<Capability>();
  const add = (definition: StepDefinition, situation: Situation, suffix: string, positions: readonly Position[]) => {
    const first = positions[0] ?? order[0] ?? (build.positions[0] as Position);
    const body = definition.compose(situation, first, byNumber.get(first.number) as StringToFit);
    if (!body) return;
    if (definition.provides) provided.add(definition.provides);
    const cautions = cautionsOf(definition.phase, body, applies);
    const words = (naming: 'each' | 'it'): StepWords | undefined => {
      const other = definition.compose(
        { ...situation, names: names[naming] },
        first,
        byNumber.get(first.number) as StringToFit,
      );
      return other && (other.title !== body.title || other.detail !== body.detail)
        ? { title: other.title, ...(other.detail ? { detail: other.detail } : {}) }
        : undefined;
    };
    const each = context.led && definition.scope === 'string' ? words('each') : undefined;
    const it = context.led && definition.scope !== 'instrument' && positions.length === 1 ? words('it') : undefined;
    const step: Step = {
      ...body,
      key: `${definition.id}${suffix}`,
      id: definition.id,
      phase: definition.phase,
      positions: positions.map((p) => p.number),
      undoable: definition.undoable ?? true,
    };
    if (cautions.length) step.cautions = cautions;
    if (each) step.each = each;
    if (it) step.it = it;
    steps.push(step);
  };
  const addPhase = (phase: Phase, group: Position[], groupIndex: number, of = `/g${groupIndex + 1}`) => {
    const inPhase = usable.get(phase) ?? [];
    if (inPhase.length === 0) return;
    const situation: Situation = { ...base, group };
    const perString = inPhase.filter((d) => d.scope === 'string');
    let strung = false;
    for (const definition of inPhase) {
      if (definition.scope === 'instrument') {
        if (groupIndex === 0) add(definition, situation, '', []);
      } else if (definition.scope === 'group') {
        add(definition, situation, of, group);
      } else if (!strung) {
        // One string is finished within a phase before the next is touched.
        for (const p of group) for (const d of perString) add(d, situation, `/${p.number}`, [p]);
        strung = true;
      }
    }
  };

  for (const phase of PHASES.slice(0, FIRST_REPEATED)) addPhase(phase, order, 0);
  groups.forEach((group, index) => {
    const byString = isChange(kind) && method.finish === 'by-string' && group.length > 1;
    for (const phase of PHASES.slice(FIRST_REPEATED, byString ? FIRST_ON : FIRST_AFTER)) addPhase(phase, group, index);
    // Each string from its tail to near pitch before the next.
    if (byString)
      for (const [i, p] of group.entries())
        for (const phase of PHASES.slice(FIRST_ON, FIRST_AFTER))
          addPhase(phase, [p], index + i, `/g${index + 1}.${p.number}`);
  });
  for (const phase of PHASES.slice(FIRST_AFTER)) addPhase(phase, order, 0);

  // A string that is wound whole has nothing to trim.
  const cuts = order.some((p) => {
    const string = byNumber.get(p.number);
    return string !== undefined && !woundWhole(base.numbersOf(p, string));
  });
  const gaps = isChange(kind) ? needsOf(build, kind, cuts).filter((need) => !provided.has(need.capability)) : [];
  if (gaps.length > 0) return { gaps };
  return {
    procedure: {
      title: titleOf(kind, strings.length, build.positions.length),
      kind,
      method,
      adapted: because,
      steps,
      minutes: steps.reduce((sum, s) => sum + s.minutes, 0),
      tools: unique(steps.flatMap((s) => s.tools ?? [])),
      consumables: unique(steps.flatMap((s) => s.consumables ?? [])),
      parts: addUp(steps.flatMap((s) => s.parts ?? [])),
    },
  };
}

const titleOf = (kind: JobKind, changed: number, all: number): string =>
  kind === 'part-set' ? `${changed} of ${all} strings` : JOB_KIND_NAMES[kind];

/** Parts of one kind and fate, counted together over the job. */
function addUp(parts: readonly PartFate[]): PartFate[] {
  const sums = new Map<string, PartFate>();
  for (const p of parts) {
    const key = `${p.part}/${p.fate}`;
    const known = sums.get(key);
    sums.set(key, known ? { ...known, count: known.count + p.count } : { ...p });
  }
  return [...sums.values()];
}

/** Why taking off these groups is not safe on this instrument, or null when it is. */
function refuseGroups(
  build: Build,
  method: Method,
  strings: ReadonlyMap<number, StringToFit>,
  groups: readonly (readonly Position[])[],
): string | null {
  if (build.bridge === 'fixed') return null;
  const pulls = pullsOf(build, method, strings);
  return refuseLoad(
    build,
    loadDuring(
      build.positions,
      pulls,
      groups.map((g) => g.map((p) => p.number)),
    ),
  );
}

/** Pull in N by position; strings that are not named are taken to pull as the named ones do on average. */
export function pullsOf(
  build: Build,
  method: Method,
  strings: ReadonlyMap<number, StringToFit>,
  a4Hz = 440,
): Map<number, number> {
  const known = new Map<number, number>();
  for (const p of build.positions) {
    const string = strings.get(p.number);
    if (string) known.set(p.number, stringNumbers(build, method, p, string, a4Hz).tensionN);
  }
  const mean = [...known.values()].reduce((sum, n) => sum + n, 0) / Math.max(1, known.size);
  return new Map(build.positions.map((p) => [p.number, known.get(p.number) ?? mean]));
}
