import { useRef, useState } from 'react';
import { sayDay } from '../../../core/dates';
import type { CalendarDraft } from '../../../server/plan/calendar';
import { newKey } from '../key';
import { post } from '../post';

/** Reads a calendar of loans and lessons: first what it would do, then all of it or nothing. */
export function CalendarImport({ today }: { today: string }) {
  const [file, setFile] = useState<{ name: string; text: string } | null>(null);
  const [draft, setDraft] = useState<CalendarDraft | null>(null);
  const [says, setSays] = useState<{ text: string; bad: boolean } | null>(null);
  const key = useRef(newKey());
  const read = async (chosen: File | undefined) => {
    setDraft(null);
    setSays(null);
    if (!chosen) return;
    const text = await chosen.text();
    key.current = newKey();
    setFile({ name: chosen.name, text });
    const answer = await post<CalendarDraft>('/api/plan/calendar-draft', { text });
    if (answer.ok) return setDraft(answer.value);
    setSays({ text: answer.problem?.detail ?? 'No answer from the server. Choose the file again.', bad: true });
  };
  const apply = async () => {
    if (!file) return;
    const answer = await post<{ days: number; instruments: number }>(
      '/api/plan/calendar',
      { text: file.text, source: file.name },
      key.current,
    );
    if (!answer.ok)
      return setSays({ text: answer.problem?.detail ?? 'No answer. Press again: it counts once.', bad: true });
    setDraft(null);
    setSays({
      text: `Taken over: ${answer.value.days} times for ${answer.value.instruments} instruments.`,
      bad: false,
    });
  };
  return (
    <div className="card-paper px-4 py-2 grid gap-2">
      <label className="grid gap-1">
        <span>
          A calendar of loans and lessons (.ics). Instruments are found by their tags in the words of an event.
        </span>
        <input
          type="file"
          accept=".ics,text/calendar"
          className="file-input w-full"
          onChange={(e) => void read(e.currentTarget.files?.[0])}
        />
      </label>
      {draft && (
        <div role="status">
          <p>
            {draft.busy.length === 0
              ? 'No event of the next weeks names an instrument of the fleet.'
              : `${draft.busy.length} times, of ${new Set(draft.busy.map((b) => b.tag)).size} instruments:`}
          </p>
          <ul className="text-sm">
            {draft.busy.slice(0, 12).map((b) => (
              <li key={`${b.tag}/${b.from}`}>
                <span className="tag">{b.tag}</span> {sayDay(b.from, today)}
                {b.to !== b.from && ` to ${sayDay(b.to, today)}`}: {b.why}
              </li>
            ))}
            {draft.busy.length > 12 && <li className="muted">and {draft.busy.length - 12} more</li>}
          </ul>
          {draft.unnamed.length > 0 && (
            <p className="muted text-sm">
              {draft.unnamed.length} name none and are left out:{' '}
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
            disabled={draft.busy.length === 0}
          >
            Take it over
          </button>
        </div>
      )}
      {says && (
        <p role="alert" className={says.bad ? 'text-error' : ''}>
          {says.text}
        </p>
      )}
    </div>
  );
}
