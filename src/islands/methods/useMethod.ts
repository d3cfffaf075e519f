import { useEffect, useMemo, useState } from 'react';
import type { Build, Family } from '../../../core/instruments/build';
import { differences } from '../../../core/procedures/choices';
import type { House, problemsOf } from '../../../core/procedures/houseMethod';
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
}

/** A house's method as it is being changed: what it makes of this build, and how it is kept. */
export function useMethod(props: MethodEditorProps) {
  const { family, version, strings, tag, a4Hz } = props;
  const [build, setBuild] = useState(props.build);
  const draftName = `arvick.house.${family}.${version}`;
  const [house, setHouse] = useState<House>(props.house);
  const [why, setWhy] = useState('');
  const { run, busy, says, quiet } = useCommand();
  const [ready, setReady] = useState(false);
  useEffect(() => {
    const draft = readLocally<House>(draftName);
    if (draft) setHouse(draft);
    setReady(true);
  }, [draftName]);

  const { method } = house;
  const dirty = JSON.stringify(house) !== JSON.stringify(props.house);
  useEffect(() => {
    if (!ready) return;
    if (dirty) keepLocally(draftName, house);
    else localStorage.removeItem(draftName);
  }, [ready, dirty, house, draftName]);

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
    differs: differences(props.house.method, method),
    says,
    busy,
    why,
    setWhy,
    edit,
    change: (to: Partial<Method>) => edit({ method: { ...method, ...to } }),
    drop: () => setHouse(props.house),
    save: async () => {
      if (!(await run(`/api/methods/${family}`, { expectedVersion: version, house, why }))) return;
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
