import { useEffect, useState } from 'react';
import { GONE, REQUEST_KINDS } from '../../../contract/choices';
import { count } from '../../../core/count';
import type { FleetRow } from '../../../server/fleet/list';
import { ASKED_FOR } from '../../components/words';
import type { Asked } from '../../ui/commands';
import { Field } from '../../ui/Field';
import { Told } from '../../ui/Told';
import { useCommand } from '../../ui/useCommand';

/** What takes more than one press to say. */
const MORE = [
  { id: 'lend', says: 'Lend', press: 'Lend them' },
  { id: 'request', says: 'Request work', press: 'Request' },
  { id: 'interval', says: 'Set interval', press: 'Set' },
  { id: 'class', says: 'Needed for a class', press: '' },
] as const;
type More = (typeof MORE)[number]['id'];

/** What a form says, as it is sent. */
function askedOf(more: More, said: Record<string, string>): Omit<Asked<'/api/fleet/many'>, 'tags'> {
  const { why = '', from = '', to = '', dueOn = '', kind, days = '' } = said;
  if (more === 'lend') return { lend: { from, to, why } };
  if (more === 'interval') return { interval: { days: days === '' ? null : Number(days), why } };
  return { request: { kind: REQUEST_KINDS.find((k) => k === kind) ?? 'inspection', dueOn, why } };
}

interface Props {
  today: string;
  rows: readonly FleetRow[];
  places: readonly { id: number; name: string }[];
  sets: readonly { id: number; name: string; family: string }[];
  clear: () => void;
  changed: () => void;
  /** Told once it is there. */
  shown: () => void;
}

/** What can be done with several instruments at once, and its undo. */
export function Chosen({ today, rows, places, sets, clear, changed, shown }: Props) {
  // biome-ignore lint/correctness/useExhaustiveDependencies: told once
  useEffect(shown, []);
  const [done, setDone] = useState<{ says: string; undo: string } | null>(null);
  const [holder, setHolder] = useState('');
  const [more, setMore] = useState<More | null>(null);
  const command = useCommand();
  const family = rows.every((r) => r.family === rows[0]?.family) ? rows[0]?.family : undefined;
  const run = async (what: Omit<Asked<'/api/fleet/many'>, 'tags'>) => {
    const answer = await command.run('/api/fleet/many', { tags: rows.map((r) => r.tag), ...what });
    if (!answer) return;
    setDone(answer);
    setMore(null);
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
          <p role="status" className="card-paper border-primary px-4 py-1 flex flex-wrap items-center gap-3">
            <span className="grow">{done.says}.</span>
            <button type="button" className="btn btn-sm" disabled={command.busy} onClick={() => void undo()}>
              Undo
            </button>
          </p>
        )}
        <Told says={command.says} />
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
    <section aria-label="Chosen instruments" className="card-paper border-primary px-4 py-2 grow">
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
            aria-label="Held by"
            placeholder="held by"
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
        {pick(
          'More',
          MORE.map((m) => ({ value: m.id, says: m.says })),
          (v) => setMore(v as More),
        )}
        <button type="button" className="btn btn-ghost btn-sm" onClick={clear}>
          Deselect
        </button>
      </div>
      {more && (
        <form
          key={more}
          aria-label={MORE.find((m) => m.id === more)?.says}
          className="flex flex-wrap items-end gap-2 mt-2 pt-2 border-t border-base-300"
          onSubmit={(e) => {
            e.preventDefault();
            const said = Object.fromEntries(new FormData(e.currentTarget)) as Record<string, string>;
            void run(askedOf(more, said));
          }}
        >
          {more === 'interval' && (
            <>
              <Field label="Days between string changes" note="blank: as for the set or family">
                <input className="input input-sm w-24" name="days" type="number" min={1} max={3650} />
              </Field>
              <Field label="Reason">
                <input className="input input-sm w-64" name="why" required minLength={3} maxLength={300} />
              </Field>
            </>
          )}
          {more === 'request' && (
            <>
              <Field label="Work">
                <select className="select select-sm" name="kind">
                  {Object.entries(ASKED_FOR).map(([value, says]) => (
                    <option key={value} value={value}>
                      {says}
                    </option>
                  ))}
                </select>
              </Field>
              <Field label="Due by">
                <input className="input input-sm" name="dueOn" type="date" min={today} required />
              </Field>
              <Field label="Reason">
                <input className="input input-sm w-64" name="why" required minLength={2} maxLength={100} />
              </Field>
            </>
          )}
          {more === 'lend' && (
            <>
              <Field label="Lend to (name or class)">
                <input className="input input-sm w-48" name="why" required minLength={2} maxLength={100} />
              </Field>
              <Field label="From">
                <input className="input input-sm" name="from" type="date" min={today} defaultValue={today} required />
              </Field>
              <Field label="To">
                <input className="input input-sm" name="to" type="date" min={today} required />
              </Field>
            </>
          )}
          {more === 'class' && (
            <p className="max-w-prose">
              <a
                className="link"
                href={`/plan/people?tags=${encodeURIComponent(rows.map((r) => r.tag).join(', '))}#class`}
              >
                Add a class with these {rows.length}
              </a>
            </p>
          )}
          {more !== 'class' && (
            <button className="btn btn-sm btn-primary" type="submit" disabled={command.busy}>
              {MORE.find((m) => m.id === more)?.press}
            </button>
          )}
          <button className="btn btn-sm btn-ghost" type="button" onClick={() => setMore(null)}>
            Cancel
          </button>
        </form>
      )}
      <Told says={command.says} />
    </section>
  );
}
