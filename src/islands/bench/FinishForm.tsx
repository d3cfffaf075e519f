import { useEffect, useRef, useState } from 'react';
import { useForm } from 'react-hook-form';
import type { CountedPart, FinishEntry } from '../../../contract/bench';
import { count } from '../../../core/count';
import { tagPath } from '../../../core/instruments/tag';
import { plainEntries } from '../../../core/work/entries';
import type { Finished } from '../../../server/bench/finish';
import type { FinishPreview } from '../../../server/bench/preview';
import { money } from '../../components/words';
import { Field } from '../../ui/Field';
import { post } from '../../ui/post';
import { useHotKeys } from '../../ui/useHotKeys';
import { useClosing } from './closing';
import type { Device, Saving } from './device';
import { FinishEntryRow } from './FinishEntryRow';
import { CountedParts, LeftOver, SmallPartsUsed } from './FinishParts';
import { FinishTold } from './FinishTold';
import { countable, type Fields, KNOWN } from './finishFields';
import type { Parcel } from './keep';
import { PutAway } from './PutAway';
import type { BenchProps } from './useBench';

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

const howOften = (list: readonly number[], n: number): number => list.filter((x) => x === n).length;

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
            broken: howOften(brokenAt, e.number),
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
    const since = (n: number) => Math.max(0, howOften(brokenAt, n) - howOften(kept.brokenAt, n));
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
  const submit = () => element.current?.requestSubmit();
  useHotKeys({ Enter: submit });

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

  return (
    <form ref={element} className="w-full grow flex flex-col" onSubmit={form.handleSubmit(record)} noValidate>
      <div className="max-w-5xl w-full grow">
        <h1 className="text-[34px] font-bold leading-tight">
          {shorts.length ? `Not in stock: ${count(shorts.length, 'string')}` : 'Which strings did you fit?'}
        </h1>
        <p className="muted mb-3">
          {job.procedure
            ? 'The usual strings are filled in; change any that differ.'
            : 'There are no guided steps for this build yet. Record the strings you fitted; check them against the usual set.'}
        </p>

        <div className="card-paper px-4 py-1">
          {fields.entries.map((entry, i) => (
            <FinishEntryRow
              key={entry.number}
              form={form}
              i={i}
              entry={entry}
              position={positions.find((p) => p.number === entry.number)}
              choices={choices}
              preview={preview}
              change={change}
            />
          ))}
        </div>

        {preview && preview.leftovers.length > 0 && <LeftOver form={form} leftovers={preview.leftovers} />}
        {parts.length > 0 && <CountedParts form={form} parts={parts} counted={fields.counted} />}
        {props.small.length > 0 && <SmallPartsUsed form={form} small={props.small} />}
        <div className="grid gap-3 mt-3 md:grid-cols-[1fr_12rem]">
          <Field label="Notes" large>
            <textarea className="textarea w-full text-lg" rows={2} maxLength={4000} {...form.register('notes')} />
          </Field>
          <Field label="Minutes" large className="content-start">
            <input
              type="number"
              min={0}
              max={1440}
              className="input min-h-14 w-full text-lg"
              {...form.register('minutes', KNOWN)}
            />
          </Field>
        </div>

        <FinishTold
          tag={job.tag}
          silent={Boolean(waiting) && props.saving.silent}
          problem={problem}
          takeBack={() => void takeBack()}
          keepAsNote={(recordId) => void keepAsNote(recordId)}
        />
      </div>

      <div className="sticky bottom-0 bg-base-100 border-t border-base-300 -mx-7 -mb-4 px-7 py-2.5 mt-4 flex flex-wrap items-center gap-3">
        <button
          className="btn btn-primary min-h-14 text-xl px-8"
          disabled={shorts.length > 0}
          type="submit"
          aria-label="Record it"
        >
          <kbd className="kbd-key bg-transparent">⏎</kbd> {waiting ? 'Recording…' : 'Record it'}
        </button>
        <span className="muted text-lg">
          {shorts.length > 0
            ? 'First settle the missing strings.'
            : preview
              ? `Strings used: ${preview.used}${preview.costCents ? `, ${money(preview.costCents)}` : ''}${preview.opens.length ? `; ${preview.opens.map((o) => `${o.what} ${o.quantity} ${o.name}`).join(', ')}` : ''}`
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
