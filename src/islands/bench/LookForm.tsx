import { useEffect, useState } from 'react';
import { useForm } from 'react-hook-form';
import { tagPath } from '../../../core/instruments/tag';
import type { GivenAnswer } from '../../../core/procedures/answers';
import { JOB_KIND_NAMES } from '../../../core/procedures/types';
import { conditionOf, INSPECTION, type InspectionAnswers, type InspectionItem } from '../../../core/wear/condition';
import { REPAIRER } from '../../../core/work/done';
import { Field } from '../../ui/Field';
import { useClosing } from './closing';
import type { Device } from './device';
import type { Parcel } from './keep';
import type { BenchProps } from './useBench';

interface Props extends BenchProps {
  device: Device;
  closing: Parcel | null;
  answers: readonly GivenAnswer[];
  /** Minutes of work, pauses left out. */
  worked: number | null;
  /** The time by the server's clock. */
  at: () => number;
  back: (() => void) | null;
}

const ITEMS = Object.keys(INSPECTION) as InspectionItem[];

/** What the form holds; the answer to a question as a radio button has it. */
interface Fields {
  looked: Partial<Record<InspectionItem, string>>;
  referred: boolean;
  to: string;
  notes: string;
}

const WHEN = { change: 'New strings now', soon: 'New strings within two weeks', good: 'Nothing to do yet' };

/** The end of a job in which no string was changed: what was seen, or who it goes to. */
export function LookForm({ job, answers, worked, at, back, device, closing, personId, batch }: Props) {
  const inspection = job.kind === 'inspection';
  const stopped = answers.some(
    (a) => a.outcome === 'trouble' && ['soundpost-down', 'needs-repair'].includes(a.mistake),
  );
  const given = (item: InspectionItem) =>
    answers
      .flatMap((a) => (a.step === `first.${item}` && a.outcome === 'done' && a.choice !== undefined ? [a.choice] : []))
      .at(-1);
  const draftName = `look.${job.version}`;
  const [start] = useState((): Fields => {
    const kept = device.read<Fields>(draftName);
    if (kept) return kept;
    const looked = ITEMS.flatMap((item) => (given(item) === undefined ? [] : [[item, String(given(item))]]));
    return { looked: Object.fromEntries(looked), referred: stopped, to: REPAIRER, notes: '' };
  });
  const { register, watch, handleSubmit } = useForm<Fields>({ defaultValues: start });
  const fields = watch();
  const { looked, referred } = fields;
  const text = JSON.stringify(fields);
  // A reload in the middle loses nothing.
  useEffect(() => {
    device.write(draftName, JSON.parse(text));
  }, [device, draftName, text]);
  const seen = Object.fromEntries(ITEMS.flatMap((item) => (looked[item] ? [[item, Number(looked[item])]] : [])));
  const whole = ITEMS.every((item) => seen[item] !== undefined);
  const condition = inspection && whole ? conditionOf(seen as InspectionAnswers) : null;
  const { waiting, problem, send, takeBack } = useClosing<{ recordId: number; caseId: number | null }>({
    device,
    job,
    url: `/api/jobs/${job.id}/look`,
    personId,
    closing,
    done: ({ caseId }) =>
      batch
        ? batch.recorded(job.id)
        : location.assign(caseId ? `/faults/cases/${caseId}` : `/instruments/${tagPath(job.tag)}`),
  });

  const record = ({ referred, to, notes }: Fields) =>
    send({
      expectedVersion: job.version,
      outcome: referred ? 'referred' : 'done',
      referredTo: referred ? to : '',
      inspection: condition && !referred ? seen : null,
      notes,
      minutes: worked,
      at: at(),
    });
  const headline = referred
    ? 'Stopped: who should see it?'
    : condition
      ? `${WHEN[condition.verdict]} (condition ${condition.score} of 100)`
      : inspection
        ? 'How are the strings?'
        : 'Did every step go as described?';
  return (
    <form className="w-full grow flex flex-col" onSubmit={handleSubmit(record)}>
      <div className="max-w-5xl w-full grow grid gap-4 content-start">
        <div>
          <p className="muted text-lg">{JOB_KIND_NAMES[job.kind]}</p>
          <h1 className="text-[34px] font-bold leading-tight">{headline}</h1>
          {condition && !referred && <p className="muted">{condition.because}.</p>}
        </div>
        {inspection && !referred && (
          <div className="card-paper px-4 py-1">
            {ITEMS.map((item) => (
              <fieldset key={item} className="quiet-row py-2 flex flex-wrap items-center gap-2">
                <legend className="float-left w-64">{INSPECTION[item].question}</legend>
                {INSPECTION[item].answers.map((text, i) => (
                  <label
                    key={text}
                    className={`btn min-h-14 text-lg font-normal ${looked[item] === String(i) ? 'btn-primary' : ''}`}
                  >
                    <input type="radio" className="sr-only" value={i} {...register(`looked.${item}`)} />
                    {text}
                  </label>
                ))}
              </fieldset>
            ))}
          </div>
        )}
        <label className="flex items-center gap-3 min-h-14">
          <input type="checkbox" className="checkbox checkbox-lg" {...register('referred')} />
          Stop here and refer it to a qualified repairer
        </label>
        {referred && (
          <Field label="Refer to" large className="max-w-xl">
            <input className="input min-h-14 text-xl w-full" maxLength={80} required {...register('to')} />
          </Field>
        )}
        <Field
          label={<>Notes{job.kind === 'emergency' ? ': humidity, what was moved, what is left to do' : ''}</>}
          large
          className="max-w-3xl"
        >
          <textarea className="textarea text-xl w-full" rows={3} maxLength={4000} {...register('notes')} />
        </Field>
        {problem && (
          <p role="alert" className="text-error">
            {problem.detail}
          </p>
        )}
        {waiting && (
          <p role="status">
            Sending. If the server does not answer, it is kept on this device and sent later.{' '}
            <button type="button" className="link" onClick={() => void takeBack()}>
              Edit it first
            </button>
          </p>
        )}
      </div>
      <div className="sticky bottom-0 bg-base-100 border-t border-base-300 -mx-7 -mb-4 px-7 py-2.5 mt-4 flex flex-wrap gap-3">
        <button
          type="submit"
          className="btn btn-primary min-h-14 text-xl px-8"
          disabled={waiting || (inspection && !referred && !whole)}
        >
          {referred ? 'Record and print the note' : 'Record it'}
        </button>
        {back && (
          <button type="button" className="btn btn-ghost min-h-14 text-lg" onClick={back}>
            Back to the steps
          </button>
        )}
      </div>
    </form>
  );
}
