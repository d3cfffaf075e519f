import { useState } from 'react';
import { count } from '../../../core/count';
import { sayDay } from '../../../core/dates';
import type { CalendarAbout, CalendarDraft } from '../../../server/plan/calendar';
import { Field } from '../../ui/Field';
import { LONG_WORK_MS, post } from '../../ui/post';
import { Told } from '../../ui/Told';
import { useCommand } from '../../ui/useCommand';
import { unfolded } from './unfold';

const ABOUT: Record<CalendarAbout, { name: string; says: string }> = {
  loans: { name: 'loans', says: 'Instruments are matched by the tags in each event.' },
  lessons: { name: 'lessons', says: 'Instruments are matched by the tags in each event; lesson times are kept.' },
  concerts: { name: 'concerts', says: 'Each event is a concert; tags in it say which instruments play.' },
  holidays: { name: 'holidays', says: 'Nobody works then. Name a place in the event to close only that place.' },
};

/** Reads a calendar: first what it would do, then all of it or nothing. */
export function CalendarImport({ today }: { today: string }) {
  const [about, setAbout] = useState<CalendarAbout>('loans');
  const [file, setFile] = useState<{ name: string; text: string } | null>(null);
  const [draft, setDraft] = useState<CalendarDraft | null>(null);
  const [says, setSays] = useState<{ text: string; bad: boolean } | null>(null);
  const command = useCommand();
  const read = async (chosen: File | undefined) => {
    setDraft(null);
    setSays(null);
    setFile(null);
    if (chosen) await look({ name: chosen.name, text: unfolded(new Uint8Array(await chosen.arrayBuffer())) }, about);
  };
  const look = async (next: { name: string; text: string }, as: CalendarAbout) => {
    command.quiet();
    setFile(next);
    setDraft(null);
    const answer = await post<CalendarDraft>(
      '/api/plan/calendar-draft',
      { text: next.text, about: as },
      undefined,
      {},
      LONG_WORK_MS,
    );
    if (answer.ok) return setDraft(answer.value);
    setSays({ text: answer.problem?.detail ?? 'No answer from the server. Choose the file again.', bad: true });
  };
  const apply = async () => {
    if (!file) return;
    setSays(null);
    const taken = await command.run(
      '/api/plan/calendar',
      { text: file.text, source: file.name, about },
      { patienceMs: LONG_WORK_MS },
    );
    if (!taken) return;
    setDraft(null);
    setSays({
      text: `Imported ${count(taken.entries, 'entry', 'entries')}${taken.instruments ? ` (instruments: ${taken.instruments})` : ''}, replacing any earlier import of this file.`,
      bad: false,
    });
  };
  const days = (from: string, to: string) => `${sayDay(from, today)}${to === from ? '' : ` to ${sayDay(to, today)}`}`;
  const entries = draft
    ? [
        ...draft.busy.map((b) => ({
          key: `${b.tag}/${b.from}/${b.fromTime}`,
          says: `${b.tag} ${days(b.from, b.to)}${b.fromTime ? `, ${b.fromTime} to ${b.toTime}` : ''}: ${b.why}`,
        })),
        ...draft.concerts.map((c) => ({
          key: `${c.name}/${c.on}`,
          says: `${c.name}, ${sayDay(c.on, today)}${c.place ? ` at ${c.place}` : ''}: ${c.tags.length === 0 ? 'names no instrument' : `${c.tags.length} playing`}`,
        })),
        ...draft.holidays.map((h) => ({
          key: `${h.name}/${h.from}`,
          says: `${h.name}, ${days(h.from, h.to)}, ${h.place ?? 'everywhere'}`,
        })),
      ]
    : [];
  return (
    <div className="card-paper px-4 py-2 grid gap-2">
      <label className="flex items-center gap-2">
        <span>Calendar file (.ics) of</span>
        <select
          className="select select-sm w-36"
          value={about}
          onChange={(e) => {
            const as = e.currentTarget.value as CalendarAbout;
            setAbout(as);
            setSays(null);
            if (file) void look(file, as);
          }}
        >
          {Object.entries(ABOUT).map(([value, { name }]) => (
            <option key={value} value={value}>
              {name}
            </option>
          ))}
        </select>
      </label>
      <Field label={ABOUT[about].says}>
        <input
          type="file"
          accept=".ics,text/calendar"
          className="file-input w-full"
          onChange={(e) => void read(e.currentTarget.files?.[0])}
        />
      </Field>
      {draft && (
        <div role="status">
          <p>
            {entries.length === 0
              ? 'Nothing coming up in this file.'
              : entries.length === 1
                ? 'One entry:'
                : `${count(entries.length, 'entry', 'entries')}:`}{' '}
            <span className="muted">read up to {sayDay(draft.until, today)}</span>
          </p>
          <ul className="text-sm">
            {entries.slice(0, 12).map((e) => (
              <li key={e.key}>{e.says}</li>
            ))}
            {entries.length > 12 && <li className="muted">and {entries.length - 12} more</li>}
          </ul>
          {draft.leftOut.length > 0 && (
            <p className="text-warning text-sm">
              Not understood and left out:{' '}
              {draft.leftOut
                .slice(0, 4)
                .map((l) => `${l.summary || 'an untitled event'} (${l.why})`)
                .join('; ')}
              {draft.leftOut.length > 4 && ` and ${draft.leftOut.length - 4} more`}.
            </p>
          )}
          {draft.unnamed.length > 0 && (
            <p className="muted text-sm">
              {draft.unnamed.length} without an instrument, left out:{' '}
              {draft.unnamed
                .slice(0, 4)
                .map((u) => u.summary)
                .join(', ')}
              {draft.unnamed.length > 4 && '…'}
            </p>
          )}
          <button
            type="button"
            className="btn btn-sm btn-primary mt-1"
            onClick={() => void apply()}
            disabled={entries.length === 0}
          >
            Import
          </button>
        </div>
      )}
      <Told says={command.says} />
      {says && (
        <p role="alert" className={says.bad ? 'text-error' : ''}>
          {says.text}
        </p>
      )}
    </div>
  );
}
