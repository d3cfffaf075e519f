import { useEffect, useRef, useState } from 'react';
import { type UseFormRegisterReturn, useForm } from 'react-hook-form';
import type { CountedPart, FinishEntry } from '../../../contract/bench';
import { tagPath } from '../../../core/instruments/tag';
import { SMALL_PART_NAMES, type SmallPart } from '../../../core/parts/smallParts';
import { FATE_NAMES, type PartFate } from '../../../core/procedures/types';
import { plainEntries } from '../../../core/work/entries';
import type { Finished } from '../../../server/bench/finish';
import type { RecordSummary } from '../../../server/bench/jobs';
import type { FinishPreview } from '../../../server/bench/preview';
import { money } from '../../components/words';
import { post } from '../../ui/post';
import type { BenchProps } from './BenchApp';
import { useClosing } from './closing';
import type { Device, Saving } from './device';
import type { Parcel } from './keep';

interface Fields {
  entries: FinishEntry[];
  discard: string[];
  notes: string;
  minutes: number | null;
  /** Parts as counted; null where nobody counted. */
  counted: (number | null)[];
  /** Pins and spacers put in anew or saved. */
  small: { part: SmallPart; used: number; saved: number }[];
}

interface Props extends BenchProps {
  device: Device;
  /** The answer to a record that was sent, when it has come. */
  closing: Parcel | null;
  saving: Saving;
  /** Positions at which a string snapped, once for each. */
  brokenAt: number[];
  /** Minutes of work, pauses left out. */
  worked: number | null;
  /** Now by the server's clock. */
  at: () => number;
  back: (() => void) | null;
}

const plural = (part: string, n: number) => (n === 1 || part.endsWith('s') ? part : `${part}s`);
const count = (list: readonly number[], n: number): number => list.filter((x) => x === n).length;

/** Parts that are counted one by one: those with a number. */
const countable = (parts: readonly PartFate[] = []): PartFate[] => parts.filter((p) => p.count > 0);

/** An empty field counts as none. */
const WHOLE = { setValueAs: (v: unknown) => Math.max(0, Math.round(Number(v) || 0)) };

function Count({ label, field }: { label: string; field: UseFormRegisterReturn }) {
  return (
    <label className="flex items-center gap-2 text-lg">
      <input type="number" min={0} max={48} className="input min-h-14 w-20 text-lg" {...field} />
      {label}
    </label>
  );
}

export function FinishForm(props: Props) {
  const { job, positions, previous, choices, brokenAt, back, me, device, batch } = props;
  const draftName = `finish.${job.version}`;
  const parts = countable(job.procedure?.parts);
  const [start] = useState((): Fields => {
    const kept = device.read<{ fields: Fields; brokenAt: number[] }>(draftName);
    if (!kept) {
      return {
        entries: plainEntries(positions, job).map((e) => {
          // What a record said that was taken back is where one begins again.
          const before = previous.find((x) => x.number === e.number);
          return {
            ...e,
            action: before?.action ?? e.action,
            productId: before?.productId ?? e.productId,
            broken: count(brokenAt, e.number),
          };
        }),
        discard: [],
        notes: '',
        minutes: props.worked,
        counted: parts.map((p) => p.count),
        small: props.small.map(({ part }) => ({ part, used: 0, saved: 0 })),
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
  const leave = () => {
    if (batch) return batch.recorded(job.id);
    location.assign(`/instruments/${tagPath(job.tag)}?recorded`);
  };
  const { waiting, problem, setProblem, send, takeBack } = useClosing<Finished>({
    device,
    job,
    url: `/api/jobs/${job.id}/finish`,
    personId: props.personId,
    closing: props.closing,
    done: leave,
  });

  const text = JSON.stringify(fields);
  const entriesText = JSON.stringify(fields.entries);
  useEffect(() => {
    device.write(draftName, { fields: JSON.parse(text), brokenAt });
  }, [device, draftName, text, brokenAt]);
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

  const record = async ({ counted, small, ...values }: Fields) => {
    if (shorts.length > 0) return;
    const listed = parts.flatMap((p, i): CountedPart[] => {
      const n = counted[i];
      return n === null || n === undefined ? [] : [{ part: p.part, fate: p.fate, expected: p.count, counted: n }];
    });
    const put = (small ?? []).filter((x) => x.used > 0 || x.saved > 0);
    await send({
      ...values,
      ...(put.length > 0 ? { small: put } : {}),
      parts: listed,
      expectedVersion: job.version,
      at: props.at(),
    });
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
    const answer = await post(
      `/api/records/${recordId}/notes`,
      { text: note },
      `note-${job.id}-${job.version}-${props.personId}`,
    );
    if (answer.ok) leave();
  };
  const change = (number: number, to: Partial<FinishEntry>) => {
    const at = fields.entries.findIndex((e) => e.number === number);
    form.setValue(`entries.${at}`, { ...(fields.entries[at] as FinishEntry), ...to });
    setProblem(null);
  };

  const current = problem?.current as RecordSummary | null | undefined;
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
        {parts.length > 0 && (
          <fieldset className="card-paper px-4 pt-9 pb-2 mt-3 relative flex flex-wrap gap-x-6 gap-y-2">
            <legend className="font-bold absolute top-1.5">Counted, one by one</legend>
            {parts.map((p, i) => (
              <label key={`${p.part}/${p.fate}`} className="flex items-center gap-2 text-lg">
                <input
                  type="number"
                  min={0}
                  max={99}
                  className={`input min-h-14 w-20 text-lg ${fields.counted[i] !== p.count ? 'input-error' : ''}`}
                  {...form.register(`counted.${i}`, {
                    setValueAs: (v) => (v === '' || v === null || Number.isNaN(Number(v)) ? null : Number(v)),
                  })}
                />
                <span>
                  of {p.count} {plural(p.part, p.count)}
                  <span className="muted block text-base">{FATE_NAMES[p.fate]}</span>
                </span>
              </label>
            ))}
            {parts.some((p, i) => fields.counted[i] !== p.count) && (
              <p className="basis-full text-error text-lg" role="status">
                Not all there: look on the bench, the floor and inside before it goes back. The record keeps what is
                missing.
              </p>
            )}
          </fieldset>
        )}
        {props.small.length > 0 && (
          <fieldset className="card-paper px-4 pt-9 pb-2 mt-3 relative flex flex-wrap gap-x-6 gap-y-2">
            <legend className="font-bold absolute top-1.5">Pins and spacers, where any were changed</legend>
            {props.small.map(({ part, saved }, i) => (
              <span key={part} className="contents">
                <Count
                  label={`${SMALL_PART_NAMES[part].many} put in anew`}
                  field={form.register(`small.${i}.used`, WHOLE)}
                />
                {saved && (
                  <Count
                    label={`${SMALL_PART_NAMES[part].many} saved`}
                    field={form.register(`small.${i}.saved`, WHOLE)}
                  />
                )}
              </span>
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
          {waiting && props.saving.silent && (
            <div className="card-paper border-accent p-4 mt-3">
              <p>
                No answer from the server. Everything you entered is kept here and goes out by itself when it answers;
                it will count once. You can go on with the next instrument.
              </p>
              <p className="flex flex-wrap gap-2 mt-2">
                <button type="button" className="btn min-h-14 text-lg" onClick={() => void takeBack()}>
                  Change it first
                </button>
                <a className="btn min-h-14 text-lg" href="/">
                  To Today
                </a>
              </p>
            </div>
          )}
          {problem !== null && problem.type === 'arvick:conflict' && (
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
                <a className="btn min-h-14 text-lg" href={`/instruments/${tagPath(job.tag)}`}>
                  See {job.tag} first
                </a>
              </div>
            </div>
          )}
          {problem !== null && problem.type !== 'arvick:conflict' && (
            <p className="card-paper border-error p-4 mt-3">
              <b>{problem.title}.</b> {problem.detail}
            </p>
          )}
        </div>
      </div>

      <div className="sticky bottom-0 bg-base-100 border-t border-base-300 -mx-7 -mb-4 px-7 py-2.5 mt-4 flex flex-wrap items-center gap-3">
        <button
          className="btn btn-primary min-h-14 text-xl px-8"
          disabled={shorts.length > 0}
          type="submit"
          aria-label="Record it"
        >
          <kbd className="kbd-key bg-transparent">⏎</kbd> {waiting ? 'Recording' : 'Record it'}
        </button>
        <span className="muted text-lg">
          {shorts.length > 0
            ? 'Answer the short strings first.'
            : preview
              ? `${preview.used} strings${preview.costCents ? `, ${money(preview.costCents)}` : ''}${preview.opens.length ? `; ${preview.opens.map((o) => `${o.what} ${o.quantity} ${o.name}`).join(', ')}` : ''}`
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
    if (answer.ok) location.assign(`/instruments/${tagPath(tag)}`);
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
