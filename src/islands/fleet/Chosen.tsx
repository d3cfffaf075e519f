import { useState } from 'react';
import { GONE } from '../../../contract/fleet';
import { count } from '../../../core/count';
import type { FleetRow } from '../../../server/fleet/list';
import type { Asked } from '../../ui/commands';
import { Told } from '../../ui/Told';
import { useCommand } from '../../ui/useCommand';

interface Props {
  rows: readonly FleetRow[];
  places: readonly { id: number; name: string }[];
  sets: readonly { id: number; name: string; family: string }[];
  clear: () => void;
  changed: () => void;
}

/** What can be done with several instruments at once, and its undo. */
export function Chosen({ rows, places, sets, clear, changed }: Props) {
  const [done, setDone] = useState<{ says: string; undo: string } | null>(null);
  const [holder, setHolder] = useState('');
  const command = useCommand();
  const family = rows.every((r) => r.family === rows[0]?.family) ? rows[0]?.family : undefined;
  const run = async (what: Omit<Asked<'/api/fleet/many'>, 'tags'>) => {
    const answer = await command.run('/api/fleet/many', { tags: rows.map((r) => r.tag), ...what });
    if (!answer) return;
    setDone(answer);
    clear();
    changed();
  };
  const undo = async () => {
    if (!done || !(await command.run('/api/fleet/undo', { undo: done.undo }))) return;
    setDone(null);
    changed();
  };
  if (rows.length === 0)
    return (
      <>
        {done && (
          <p role="status" className="card-paper border-primary px-4 py-2 mb-3 flex flex-wrap items-center gap-3">
            <span className="grow">{done.says}.</span>
            <button type="button" className="btn btn-sm" disabled={command.busy} onClick={() => void undo()}>
              Undo
            </button>
          </p>
        )}
        <Told says={command.says} className="mb-3" />
      </>
    );
  const pick = (
    label: string,
    options: readonly { value: string; says: string }[],
    choose: (value: string) => void,
  ) => (
    <select
      className="select select-sm w-auto max-w-44"
      aria-label={label}
      value=""
      disabled={command.busy}
      onChange={(e) => e.target.value && choose(e.target.value)}
    >
      <option value="">{label}</option>
      {options.map((o) => (
        <option key={o.value} value={o.value}>
          {o.says}
        </option>
      ))}
    </select>
  );
  return (
    <section aria-label="Chosen instruments" className="card-paper border-primary px-4 py-2 mb-3 sticky top-2 z-30">
      <div className="flex flex-wrap items-center gap-2">
        <b className="grow">{count(rows.length, 'instrument')} chosen</b>
        {pick(
          'Move to',
          places.map((p) => ({ value: String(p.id), says: p.name })),
          (v) => void run({ placeId: Number(v) }),
        )}
        <form
          className="flex gap-1"
          onSubmit={(e) => {
            e.preventDefault();
            void run({ holder });
          }}
        >
          <input
            className="input input-sm w-32"
            aria-label="With whom they are"
            placeholder="with whom"
            maxLength={60}
            value={holder}
            onChange={(e) => setHolder(e.target.value)}
          />
          <button className="btn btn-sm" type="submit" disabled={command.busy}>
            Set
          </button>
        </form>
        {family &&
          pick(
            'Usual set',
            sets.filter((s) => s.family === family).map((s) => ({ value: String(s.id), says: s.name })),
            (v) => void run({ houseSetId: Number(v) }),
          )}
        <a
          className="btn btn-sm"
          href={`/instruments/labels?tags=${encodeURIComponent(rows.map((r) => r.tag).join(','))}`}
        >
          Labels
        </a>
        {pick(
          'Retire',
          GONE.map((g) => ({ value: g, says: g })),
          (v) => void run({ retire: v as (typeof GONE)[number] }),
        )}
        <button type="button" className="btn btn-ghost btn-sm" onClick={clear}>
          None
        </button>
      </div>
      <Told says={command.says} />
    </section>
  );
}
