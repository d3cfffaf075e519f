import { useEffect, useRef, useState } from 'react';
import { useForm } from 'react-hook-form';
import type { FinishEntry, Finished, FinishPreview } from '../../../server/bench/finish';
import type { RecordSummary } from '../../../server/bench/jobs';
import { money } from '../../components/words';
import { newKey } from '../key';
import { type ProblemAnswer, post } from '../post';
import type { BenchProps } from './BenchApp';
import { keepLocally, readLocally } from './local';

interface Fields {
  entries: FinishEntry[];
  discard: string[];
  notes: string;
  minutes: number | null;
}

interface Props extends BenchProps {
  /** Positions at which a string snapped, once for each. */
  brokenAt: number[];
  startedAt: number;
  back: (() => void) | null;
}

const count = (list: readonly number[], n: number): number => list.filter((x) => x === n).length;

/** Times that a timer can have measured; a job left over night says nothing. */
const LONGEST_MINUTES = 240;

export function FinishForm({ job, positions, previous, choices, brokenAt, startedAt, back, me }: Props) {
  const draftName = `arvick.finish.${job.id}.${job.version}`;
  const keyName = `arvick.finish-key.${job.id}.${job.version}`;
  const elapsed = Math.round((Date.now() - startedAt) / 60_000);
  const [start] = useState((): Fields => {
    const kept = readLocally<{ fields: Fields; brokenAt: number[] }>(draftName);
    if (!kept) {
      return {
        entries: positions.map((p) => {
          const before = previous.find((e) => e.number === p.number);
          return {
            number: p.number,
            action:
              before?.action ??
              (p.houseProductId === null || job.kind === 'refit' || !job.numbers.includes(p.number) ? 'kept' : 'fit'),
            productId: before?.productId ?? p.houseProductId,
            broken: count(brokenAt, p.number),
            found: false,
          };
        }),
        discard: [],
        notes: '',
        minutes: elapsed >= 1 && elapsed <= LONGEST_MINUTES ? elapsed : null,
      };
    }
    // Strings that snapped after the draft was left, on a way back through the steps.
    const since = (n: number) => Math.max(0, count(brokenAt, n) - count(kept.brokenAt, n));
    return { ...kept.fields, entries: kept.fields.entries.map((e) => ({ ...e, broken: e.broken + since(e.number) })) };
  });
  const form = useForm<Fields>({ defaultValues: start });
  const fields = form.watch();
  const [preview, setPreview] = useState<FinishPreview | null>(null);
  const shorts = preview?.short ?? [];
  const [problem, setProblem] = useState<ProblemAnswer | 'no-answer' | null>(null);
  const [sending, setSending] = useState(false);
  const inFlight = useRef(false);
  const sentKey = useRef<string | null>(null);

  const text = JSON.stringify(fields);
  const entriesText = JSON.stringify(fields.entries);
  useEffect(() => {
    keepLocally(draftName, { fields: JSON.parse(text), brokenAt });
  }, [draftName, text, brokenAt]);
  useEffect(() => {
    let current = true;
    const timer = setTimeout(async () => {
      const answer = await post<FinishPreview>(`/api/jobs/${job.id}/preview`, { entries: JSON.parse(entriesText) });
      if (current && answer.ok) setPreview(answer.value);
    }, 150);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [job.id, entriesText]);

  // Enter records from anywhere but a field that needs it. Space does not: it may still come from the last step.
  const element = useRef<HTMLFormElement>(null);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== 'Enter' || (event.target as HTMLElement).closest('button, a, textarea, input, select')) return;
      event.preventDefault();
      element.current?.requestSubmit();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);

  const leave = () => {
    for (const name of [draftName, keyName, `arvick.cursor.${job.id}`]) localStorage.removeItem(name);
    location.assign(`/instruments/${job.tag}?recorded`);
  };
  const record = async (values: Fields) => {
    if (shorts.length > 0) return;
    // A double press is one intention: the same key goes out until an answer has come.
    if (inFlight.current) return;
    inFlight.current = true;
    setSending(true);
    const key = sentKey.current ?? readLocally<string>(keyName) ?? newKey();
    sentKey.current = key;
    keepLocally(keyName, key);
    const answer = await post<Finished>(`/api/jobs/${job.id}/finish`, { ...values, expectedVersion: job.version }, key);
    inFlight.current = false;
    setSending(false);
    if (answer.ok) return leave();
    setProblem(answer.problem ?? 'no-answer');
  };
  const keepAsNote = async (recordId: number) => {
    const lines = fields.entries.map((e) => {
      const p = positions.find((x) => x.number === e.number);
      const what =
        e.action === 'fit'
          ? choices.find((c) => c.id === e.productId)?.name
          : e.action === 'kept'
            ? 'old string kept'
            : 'left off';
      return `${p?.note}: ${what}${e.broken ? `, ${e.broken} broke` : ''}`;
    });
    const note = [`Also recorded by ${me}: ${lines.join('; ')}.`, fields.notes].filter(Boolean).join(' ');
    const answer = await post(`/api/records/${recordId}/notes`, { text: note }, `note-${sentKey.current}`);
    if (answer.ok) leave();
  };
  const change = (number: number, to: Partial<FinishEntry>) => {
    const at = fields.entries.findIndex((e) => e.number === number);
    form.setValue(`entries.${at}`, { ...(fields.entries[at] as FinishEntry), ...to });
    setProblem(null);
  };

  const current =
    problem !== null && problem !== 'no-answer' ? (problem.current as RecordSummary | null | undefined) : undefined;
  return (
    <form ref={element} className="w-full grow flex flex-col" onSubmit={form.handleSubmit(record)} noValidate>
      <div className="max-w-5xl w-full grow">
        <h1 className="text-[34px] font-bold leading-tight">
          {shorts.length
            ? `The shelf is short of ${shorts.length === 1 ? 'one string' : `${shorts.length} strings`}`
            : 'What went on?'}
        </h1>
        <p className="muted mb-3">
          {job.procedure
            ? 'The house strings are filled in; change what was different.'
            : 'There is no guided method for this build yet. Record what you changed; check it against the house strings.'}
        </p>

        <div className="card-paper px-4 py-1">
          {fields.entries.map((entry, i) => {
            const position = positions.find((p) => p.number === entry.number);
            const from = preview?.drawn.find((d) => d.number === entry.number);
            const short = shorts.find((s) => s.number === entry.number);
            const label = `${entry.number} ${position?.note}`;
            return (
              <div
                key={entry.number}
                className="quiet-row py-1.5 grid items-center gap-x-3 gap-y-1 grid-cols-[5rem_1fr] md:grid-cols-[5rem_10rem_1fr_8.5rem]"
              >
                <span className="tag">{label}</span>
                <select
                  className="select min-h-14 text-lg w-full"
                  aria-label={`${label}: what happened`}
                  {...form.register(`entries.${i}.action`)}
                >
                  <option value="fit">new string</option>
                  <option value="kept">old one kept</option>
                  <option value="left-off">left off</option>
                </select>
                {entry.action === 'fit' ? (
                  <span className="col-span-2 md:col-span-1">
                    <select
                      className="select min-h-14 text-lg w-full"
                      aria-label={`${label}: which string`}
                      value={entry.productId ?? ''}
                      onChange={(e) =>
                        change(entry.number, {
                          productId: e.target.value ? Number(e.target.value) : null,
                          found: false,
                        })
                      }
                    >
                      <option value="">choose</option>
                      {choices.map((c) => (
                        <option key={c.id} value={c.id}>
                          {c.name}
                        </option>
                      ))}
                    </select>
                    <span className={`block text-base ${short ? 'text-error font-semibold' : 'muted'}`}>
                      {short
                        ? 'not on the shelf'
                        : entry.found
                          ? 'counted in at the bench'
                          : from
                            ? `${from.half ? 'half a string, ' : ''}from ${from.from}`
                            : ' '}
                    </span>
                  </span>
                ) : (
                  <span className="muted">{entry.action === 'kept' ? 'stays as it was' : 'no string here now'}</span>
                )}
                {entry.action === 'fit' && (
                  <label className="flex items-center gap-2 text-lg">
                    <span>broke</span>
                    <input
                      type="number"
                      min={0}
                      max={5}
                      className="input min-h-14 w-20 text-lg"
                      aria-label={`${label}: strings that broke on the way`}
                      {...form.register(`entries.${i}.broken`, { valueAsNumber: true })}
                    />
                  </label>
                )}
                {short && (
                  <fieldset className="col-span-2 md:col-span-4 flex flex-wrap gap-2 pb-2">
                    <legend className="text-lg">{short.name} is not in the book. What is true?</legend>
                    {short.substitutes.map((s) => (
                      <button
                        key={s.productId}
                        type="button"
                        className="btn min-h-14 text-lg font-normal"
                        onClick={() => change(entry.number, { productId: s.productId, found: false })}
                      >
                        {s.name} went on ({s.tensionChange >= 0 ? '+' : ''}
                        {(s.tensionChange * 100).toFixed(0)} % pull)
                      </button>
                    ))}
                    <button
                      type="button"
                      className="btn min-h-14 text-lg font-normal"
                      onClick={() => change(entry.number, { found: true })}
                    >
                      It lay there: count it in
                    </button>
                    <button
                      type="button"
                      className="btn min-h-14 text-lg font-normal"
                      onClick={() => change(entry.number, { action: 'kept' })}
                    >
                      Old one kept
                    </button>
                    <button
                      type="button"
                      className="btn min-h-14 text-lg font-normal"
                      onClick={() => change(entry.number, { action: 'left-off' })}
                    >
                      Left off
                    </button>
                  </fieldset>
                )}
              </div>
            );
          })}
        </div>

        {preview && preview.leftovers.length > 0 && (
          <fieldset className="card-paper px-4 pt-8 pb-1 mt-3 relative">
            <legend className="font-bold absolute top-1.5">Left over, back to the shelf</legend>
            {preview.leftovers.map((l) => (
              <label key={l.key} className="py-1.5 flex items-center gap-3 min-h-14">
                <span className="grow">
                  {l.quantity}{' '}
                  {l.form === 'half' ? (l.quantity === 1 ? 'half' : 'halves') : l.quantity === 1 ? 'string' : 'strings'}
                  : {l.name}
                </span>
                <span className="text-lg muted flex items-center gap-2">
                  <input type="checkbox" className="checkbox" value={l.key} {...form.register('discard')} /> bin it
                  instead
                </span>
              </label>
            ))}
          </fieldset>
        )}
        <div className="grid gap-3 mt-3 md:grid-cols-[1fr_12rem]">
          <label className="grid gap-1">
            <span>Notes</span>
            <textarea className="textarea w-full text-lg" rows={2} maxLength={4000} {...form.register('notes')} />
          </label>
          <label className="grid gap-1 content-start">
            <span>Minutes</span>
            <input
              type="number"
              min={0}
              max={1440}
              className="input min-h-14 w-full text-lg"
              {...form.register('minutes', {
                setValueAs: (v) => (v === '' || v === null || Number.isNaN(Number(v)) ? null : Number(v)),
              })}
            />
          </label>
        </div>

        <div aria-live="assertive">
          {problem === 'no-answer' && (
            <p className="card-paper border-accent p-4 mt-3">
              No answer from the server. Everything you entered is kept here. Press again: it will count once.
            </p>
          )}
          {problem !== null && problem !== 'no-answer' && problem.type === 'arvick:conflict' && (
            <div className="card-paper border-error p-4 mt-3">
              <p className="font-bold">{problem.detail}</p>
              <p>Nothing of yours was recorded over it, and what you entered is still here.</p>
              <div className="flex flex-wrap gap-2 mt-2">
                {current && (
                  <button
                    type="button"
                    className="btn btn-primary min-h-14 text-lg"
                    onClick={() => void keepAsNote(current.recordId)}
                  >
                    Keep mine as a note on that record
                  </button>
                )}
                <a className="btn min-h-14 text-lg" href={`/instruments/${job.tag}`}>
                  See {job.tag} first
                </a>
              </div>
            </div>
          )}
          {problem !== null && problem !== 'no-answer' && problem.type !== 'arvick:conflict' && (
            <p className="card-paper border-error p-4 mt-3">
              <b>{problem.title}.</b> {problem.detail}
            </p>
          )}
        </div>
      </div>

      <div className="sticky bottom-0 bg-base-100 border-t border-base-300 -mx-7 -mb-4 px-7 py-2.5 mt-4 flex flex-wrap items-center gap-3">
        <button
          className="btn btn-primary min-h-14 text-xl px-8"
          disabled={sending || shorts.length > 0}
          type="submit"
          aria-label="Record it"
        >
          <kbd className="kbd-key bg-transparent">⏎</kbd> {sending ? 'Recording' : 'Record it'}
        </button>
        <span className="muted text-lg">
          {shorts.length > 0
            ? 'Answer the short strings first.'
            : preview
              ? `${preview.drawn.length} strings${preview.costCents ? `, ${money(preview.costCents)}` : ''}${preview.opens.length ? `; ${preview.opens.map((o) => `${o.what} ${o.quantity} ${o.name}`).join(', ')}` : ''}`
              : ''}
        </span>
        <span className="ml-auto flex gap-2">
          {back && (
            <button type="button" className="btn btn-ghost min-h-14 text-lg" onClick={back}>
              Back to the steps
            </button>
          )}
          <PutAway jobId={job.id} version={job.version} tag={job.tag} />
        </span>
      </div>
    </form>
  );
}

/** Closes a job on which no string was changed. */
function PutAway({ jobId, version, tag }: { jobId: number; version: number; tag: string }) {
  const [sure, setSure] = useState(false);
  const [failed, setFailed] = useState('');
  const put = async () => {
    if (!sure) return setSure(true);
    const answer = await post(`/api/jobs/${jobId}/cancel`, { expectedVersion: version }, `cancel-${jobId}-${version}`);
    if (answer.ok) location.assign(`/instruments/${tag}`);
    else setFailed(answer.problem?.detail ?? 'No answer from the server. Press again.');
  };
  return (
    <>
      <button type="button" className="btn btn-ghost min-h-14 text-lg" onClick={() => void put()}>
        {sure ? 'Yes: no string was changed' : 'Put away unchanged'}
      </button>
      {failed && (
        <span role="alert" className="text-error text-lg">
          {failed}
        </span>
      )}
    </>
  );
}
