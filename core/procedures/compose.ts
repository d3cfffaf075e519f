import { type Build, PART_NAMES, type Position } from '../instruments/build';
import { FINISH } from './library/finish';
import { FIT } from './library/fit';
import { PREPARE } from './library/prepare';
import { REMOVE } from './library/remove';
import {
  type Capability,
  type Gap,
  type Method,
  PHASES,
  type Phase,
  type Procedure,
  type Situation,
  type Step,
  type StepDefinition,
  type StringToFit,
} from './types';

const LIBRARY: readonly StepDefinition[] = [...PREPARE, ...REMOVE, ...FIT, ...FINISH];

/** What a restring of this build needs steps for, with the part that asks for it. */
function needsOf(build: Build): Gap[] {
  const part = PART_NAMES;
  const needs: Gap[] = [
    { capability: 'protect', needs: 'laying it down' },
    { capability: 'slacken', needs: `slackening with a ${part[build.bridge]}` },
    { capability: 'release-post', needs: `taking a string off ${part[build.tuner]}` },
    { capability: 'release-tail', needs: `taking a string out of a ${part[build.tailEnd]}` },
    { capability: 'clean', needs: 'cleaning' },
    { capability: 'seat-tail', needs: `fitting a string to a ${part[build.tailEnd]}` },
    { capability: 'wind-post', needs: `winding on ${part[build.tuner]}` },
    { capability: 'bring-to-pitch', needs: 'tuning' },
    { capability: 'stretch', needs: 'stretching' },
    { capability: 'trim', needs: 'trimming' },
    { capability: 'check', needs: 'the last checks' },
  ];
  if (build.bridge === 'floating')
    needs.push({ capability: 'hold-bridge', needs: 'keeping a floating bridge in its place' });
  if (build.extras.includes('tailpiece-cover'))
    needs.push({ capability: 'open-cover', needs: 'opening the tailpiece cover' });
  if (build.extras.includes('fine-tuners'))
    needs.push({ capability: 'move-fine-tuners', needs: 'setting the fine tuners' });
  return needs;
}

/** What the library cannot do yet for a build; empty when a procedure can be composed. */
export function gapsOf(build: Build, method: Method): Gap[] {
  const provided = new Set<Capability>();
  for (const step of LIBRARY) {
    if (step.provides && (step.when?.(build, method) ?? true)) provided.add(step.provides);
  }
  return needsOf(build).filter((need) => !provided.has(need.capability));
}

/** The positions in the order the method takes them. */
export function workingOrder(positions: readonly Position[], order: Method['order']): Position[] {
  const descending = [...positions].sort((a, b) => b.number - a.number);
  switch (order) {
    case 'number-down':
    case 'thick-to-thin':
      return descending;
    case 'thin-to-thick':
      return descending.reverse();
    case 'outer-inward': {
      const inward: Position[] = [];
      for (let i = 0, j = descending.length - 1; i <= j; i++, j--) {
        inward.push(descending[i] as Position);
        if (i < j) inward.push(descending[j] as Position);
      }
      return inward;
    }
  }
}

/** Phases done once, then those repeated for each group of strings that is off together, then the rest once. */
const FIRST_REPEATED = PHASES.indexOf('slacken');
const FIRST_AFTER = PHASES.indexOf('tune');

/**
 * The steps of a string change for one instrument: chosen from the library by the instrument's parts, repeated for
 * the strings that are off together, with this instrument's numbers.
 *
 * @param strings what goes on, one entry for each position that is changed
 * @returns the procedure, or the gaps that keep it from being composed
 * @throws RangeError when no string is given or one names a position the instrument does not have
 */
export function composeProcedure(
  build: Build,
  method: Method,
  strings: readonly StringToFit[],
): { procedure: Procedure } | { gaps: Gap[] } {
  const gaps = gapsOf(build, method);
  if (gaps.length > 0) return { gaps };
  const byNumber = new Map(strings.map((s) => [s.number, s]));
  const changed = build.positions.filter((p) => byNumber.has(p.number));
  if (changed.length === 0 || changed.length !== byNumber.size) {
    throw new RangeError('A string change names at least one position, and only positions the instrument has.');
  }

  const order = workingOrder(changed, method.order);
  const size = method.atATime === 'all' ? order.length : method.atATime;
  const groups: Position[][] = [];
  for (let i = 0; i < order.length; i += size) groups.push(order.slice(i, i + size));

  const usable = LIBRARY.filter((d) => d.when?.(build, method) ?? true);
  const steps: Step[] = [];
  const add = (definition: StepDefinition, group: Position[], suffix: string, positions: Position[]) => {
    const first = positions[0] ?? (order[0] as Position);
    const situation: Situation = { build, method, strings: [...strings], group };
    const body = definition.compose(situation, first, byNumber.get(first.number) as StringToFit);
    if (!body) return;
    steps.push({
      ...body,
      key: `${definition.id}${suffix}`,
      id: definition.id,
      phase: definition.phase,
      positions: positions.map((p) => p.number),
      undoable: definition.undoable ?? true,
    });
  };
  const addPhase = (phase: Phase, group: Position[], groupIndex: number) => {
    const inPhase = usable.filter((d) => d.phase === phase);
    const perString = inPhase.filter((d) => d.scope === 'string');
    let strung = false;
    for (const definition of inPhase) {
      if (definition.scope === 'instrument') {
        if (groupIndex === 0) add(definition, group, '', []);
      } else if (definition.scope === 'group') {
        add(definition, group, `/g${groupIndex + 1}`, group);
      } else if (!strung) {
        // One string is finished within a phase before the next is touched.
        for (const p of group) for (const d of perString) add(d, group, `/${p.number}`, [p]);
        strung = true;
      }
    }
  };

  for (const phase of PHASES.slice(0, FIRST_REPEATED)) addPhase(phase, order, 0);
  groups.forEach((group, index) => {
    for (const phase of PHASES.slice(FIRST_REPEATED, FIRST_AFTER)) addPhase(phase, group, index);
  });
  for (const phase of PHASES.slice(FIRST_AFTER)) addPhase(phase, order, 0);

  const unique = (lists: (string[] | undefined)[]) => [...new Set(lists.flatMap((l) => l ?? []))];
  return {
    procedure: {
      title:
        strings.length === build.positions.length
          ? 'Full set'
          : `${strings.length} of ${build.positions.length} strings`,
      method,
      steps,
      minutes: steps.reduce((sum, s) => sum + s.minutes, 0),
      tools: unique(steps.map((s) => s.tools)),
      consumables: unique(steps.map((s) => s.consumables)),
    },
  };
}
