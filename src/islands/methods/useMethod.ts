import { useEffect, useMemo, useRef, useState } from 'react';
import type { Build, Family } from '../../../core/instruments/build';
import { differences } from '../../../core/procedures/choices';
import type { House, problemsOf } from '../../../core/procedures/houseMethod';
import { mergeHouse } from '../../../core/procedures/mergeHouse';
import { adaptMethod } from '../../../core/procedures/method';
import type { Tried, tryMethod } from '../../../core/procedures/tried';
import type { LastTime, Method, StringToFit } from '../../../core/procedures/types';
import { useCommand } from '../../ui/useCommand';
import { keepLocally, readLocally } from './draft';

export interface MethodEditorProps {
  family: Family;
  version: number;
  house: House;
  /** The chosen instrument's build, or the family's usual one. */
  build: Build;
  strings: StringToFit[];
  /** What the house makes of them as it stands. */
  first: Tried;
  /** Whether the strings are made up because the catalogue has none. */
  assumed: boolean;
  tag: string | null;
  last: LastTime | null;
  a4Hz: number;
  openJob: boolean;
  /** Whether whoever looks may save it for everyone. */
  maySave: boolean;
}

/** Changes that are not saved yet, with what they were made to. */
interface Draft {
  base: House;
  house: House;
}

/** A house's method as it is being changed: what it makes of this build, and how it is kept. */
export function useMethod(props: MethodEditorProps) {
  const { family, version, strings, tag, a4Hz } = props;
  const [build, setBuild] = useState(props.build);
  const draftName = `arvick.house.${family}`;
  /** What the changes are made to; a later version once somebody else has saved one. */
  const [base, setBase] = useState({ version, house: props.house });
  const [house, setHouse] = useState<House>(props.house);
  const [why, setWhy] = useState('');
  const { run, busy, says, quiet, problem } = useCommand();
  const [ready, setReady] = useState(false);
  useEffect(() => {
    const draft = readLocally<Draft>(draftName);
    // Of an earlier version only the changes are kept, on top of what is saved now.
    if (draft?.base && draft.house) setHouse(mergeHouse(draft.base, draft.house, props.house));
    setReady(true);
  }, [draftName, props.house]);

  // Somebody else saved a version: my changes go on top of theirs, to be looked at and saved once more.
  const merged = useRef<unknown>(null);
  useEffect(() => {
    if (problem?.status !== 409 || merged.current === problem || typeof problem.currentVersion !== 'number') return;
    merged.current = problem;
    const theirs = problem.current as House;
    setHouse(mergeHouse(base.house, house, theirs));
    setBase({ version: problem.currentVersion, house: theirs });
  }, [problem, base, house]);

  const { method } = house;
  const dirty = JSON.stringify(house) !== JSON.stringify(base.house);
  useEffect(() => {
    if (!ready) return;
    if (dirty) keepLocally(draftName, { base: base.house, house } satisfies Draft);
    else localStorage.removeItem(draftName);
  }, [ready, dirty, base, house, draftName]);

  const adapted = useMemo(() => adaptMethod(build, method, 'full-set'), [build, method]);
  const asItStands = !dirty && build === props.build;
  // Composing is loaded when something is first changed.
  const [tool, setTool] = useState<{ tryMethod: typeof tryMethod; problemsOf: typeof problemsOf } | 'failed' | null>(
    null,
  );
  useEffect(() => {
    if (asItStands || tool) return;
    import('../../../core/procedures/tried').then(setTool, () => setTool('failed'));
  }, [asItStands, tool]);
  const made = useMemo(() => {
    if (asItStands) return props.first;
    if (!tool || tool === 'failed') return null;
    return tool.tryMethod(build, house, strings, { last: props.last, a4Hz });
  }, [asItStands, props.first, tool, build, house, strings, props.last, a4Hz]);
  const { procedure, gaps, loads, winds } = made ?? props.first;
  const problems = useMemo(
    () => (dirty && tool && tool !== 'failed' ? tool.problemsOf(build, house, strings) : []),
    [dirty, tool, build, house, strings],
  );
  const edit = (to: Partial<House>) => {
    setHouse({ ...house, ...to });
    quiet();
  };

  return {
    /** What the changes are made to. */
    base,
    build,
    /** Another build of the family, to see what the method makes of it. */
    setBuild,
    house,
    method,
    strings,
    a4Hz,
    /** The method as this build asks for it, and why it differs. */
    adapted,
    procedure,
    gaps,
    loads,
    winds,
    /** Whether the steps and figures are those of what is chosen now. */
    worked: made !== null,
    failed: tool === 'failed' && made === null,
    ready,
    dirty,
    problems,
    differs: differences(base.house.method, method),
    says,
    busy,
    why,
    setWhy,
    edit,
    change: (to: Partial<Method>) => edit({ method: { ...method, ...to } }),
    drop: () => setHouse(base.house),
    save: async () => {
      if (!(await run(`/api/methods/${family}`, { expectedVersion: base.version, house, why }))) return;
      localStorage.removeItem(draftName);
      location.reload();
    },
    /** For one job only, on the instrument it was opened from. */
    once: async () => {
      if (!tag) return;
      const opened = await run('/api/jobs', { tag, departure: { method, reason: why } });
      if (!opened) return;
      localStorage.removeItem(draftName);
      location.assign(`/bench/${opened.jobId}`);
    },
  };
}

export type MethodInHand = ReturnType<typeof useMethod>;
