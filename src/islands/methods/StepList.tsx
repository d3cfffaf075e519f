import { useState } from 'react';
import { count } from '../../../core/count';
import { CAUTIONS } from '../../../core/procedures/cautions';
import type { House, HouseStep } from '../../../core/procedures/houseMethod';
import type { Phase, Procedure, Step } from '../../../core/procedures/types';
import { Filled } from '../../components/Filled';
import { Field } from '../../ui/Field';

interface Props {
  procedure: Procedure;
  wording: House['wording'];
  own: HouseStep[];
  reword: (id: string, words: { title?: string; detail?: string }) => void;
  setOwn: (steps: HouseStep[]) => void;
  phases: { phase: Phase; name: string }[];
}

/** Steps that are the same but for their string are said once, with how often they come. */
function gathered(steps: readonly Step[]): { step: Step; times: number }[] {
  const seen = new Map<string, { step: Step; times: number }>();
  for (const step of steps) {
    const known = seen.get(step.id);
    if (known) known.times += 1;
    else seen.set(step.id, { step, times: 1 });
  }
  return [...seen.values()];
}

/** The procedure phase by phase, with the house's words and own steps open to change. */
export function StepList({ procedure, wording, own, reword, setOwn, phases }: Props) {
  const [editing, setEditing] = useState<string | null>(null);
  return (
    <section aria-labelledby="steps">
      <h2 id="steps" className="font-bold mb-2">
        Step by step
      </h2>
      {procedure.method.atATime !== 'all' && (
        <p className="mb-2">
          <b>From slackening to near pitch, do {count(procedure.method.atATime, 'string')}, then the next:</b> each
          phase is shown once below.
        </p>
      )}
      <div className="grid gap-4 xl:grid-cols-2 items-start">
        {phases.map(({ phase, name }) => (
          <div key={phase} className="card-paper px-4 py-2">
            <h3 className="font-semibold">{name}</h3>
            <ol>
              {gathered(procedure.steps.filter((s) => s.phase === phase)).map(({ step, times }) => (
                <li key={step.id} className="quiet-row py-1.5">
                  <div className="flex gap-3 items-start">
                    <span className="grow">
                      <Filled text={step.title} numbers={step.numbers} />
                      {times > 1 && <span className="chip chip-plain ml-2">{times} times</span>}
                      {!step.undoable && <span className="chip chip-late ml-2">cannot be undone</span>}
                      {(wording[step.id] || step.house) && <span className="chip chip-settling ml-2">yours</span>}
                      {step.detail && (
                        <span className="block text-sm muted">
                          <Filled text={step.detail} numbers={step.numbers} />
                        </span>
                      )}
                      <span className="block text-sm muted">Why: {step.reason}</span>
                      {step.check && <span className="block text-sm">Check: {step.check.question}</span>}
                      {step.gate && <span className="block text-sm text-error">Only if: {step.gate}</span>}
                      {step.cautions && (
                        <span className="block text-sm text-warning">
                          <span aria-hidden="true">△ </span>
                          {step.cautions.map((c) => CAUTIONS[c]).join(' ')}
                        </span>
                      )}
                    </span>
                    {step.house ? (
                      <button
                        type="button"
                        className="btn btn-xs"
                        aria-label={`Remove your step: ${step.title}`}
                        onClick={() => setOwn(own.filter((o) => `house.${o.id}` !== step.id))}
                      >
                        Remove
                      </button>
                    ) : (
                      <button
                        type="button"
                        className="btn btn-xs"
                        aria-expanded={editing === step.id}
                        aria-label={`Reword: ${step.title}`}
                        onClick={() => setEditing(editing === step.id ? null : step.id)}
                      >
                        Reword
                      </button>
                    )}
                  </div>
                  {editing === step.id && (
                    <Wording step={step} words={wording[step.id] ?? {}} change={(words) => reword(step.id, words)} />
                  )}
                </li>
              ))}
            </ol>
            <OwnStep phase={phase} add={(step) => setOwn([...own, step])} taken={own.map((o) => o.id)} />
          </div>
        ))}
      </div>
    </section>
  );
}

function Wording({
  step,
  words,
  change,
}: {
  step: Step;
  words: { title?: string; detail?: string };
  change: (words: { title?: string; detail?: string }) => void;
}) {
  const names = [
    ...(step.positions.length ? ['{string}'] : []),
    ...Object.keys(step.numbers ?? {}).map((n) => `{${n}}`),
  ];
  const field = (name: 'title' | 'detail', label: string) => (
    <Field label={label}>
      <textarea
        className="textarea w-full"
        rows={2}
        maxLength={300}
        value={words[name] ?? ''}
        placeholder={step[name] ?? ''}
        onChange={(event) => {
          const { [name]: _, ...rest } = words;
          change(event.target.value ? { ...rest, [name]: event.target.value } : rest);
        }}
      />
    </Field>
  );
  return (
    <div className="grid gap-2 mt-2 border-l-4 border-primary pl-3">
      {field('title', 'Step wording')}
      {field('detail', 'Detail wording')}
      <p className="text-sm muted">
        {names.length ? `Figures you can use: ${names.join(', ')}. ` : ''}Leave blank for the standard wording. Cautions
        and checks stay.
      </p>
    </div>
  );
}

function OwnStep({ phase, add, taken }: { phase: Phase; add: (step: HouseStep) => void; taken: string[] }) {
  const [open, setOpen] = useState(false);
  const [title, setTitle] = useState('');
  const [reason, setReason] = useState('');
  const [minutes, setMinutes] = useState('1');
  if (!open)
    return (
      <button type="button" className="btn btn-ghost btn-xs my-1" onClick={() => setOpen(true)}>
        Add your own step
      </button>
    );
  const base =
    title
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '')
      .slice(0, 30) || 'step';
  let id = base;
  for (let n = 2; taken.includes(id); n++) id = `${base}-${n}`;
  return (
    <div className="grid gap-2 my-2 border-l-4 border-primary pl-3">
      <Field label="What to do">
        <input
          className="input w-full"
          value={title}
          maxLength={200}
          onChange={(event) => setTitle(event.target.value)}
        />
      </Field>
      <Field label="Reason">
        <input
          className="input w-full"
          value={reason}
          maxLength={300}
          onChange={(event) => setReason(event.target.value)}
        />
      </Field>
      <label className="flex items-center gap-2">
        <span className="text-sm">Minutes</span>
        <input
          className="input w-20"
          type="number"
          min="0.1"
          max="60"
          step="0.1"
          value={minutes}
          onChange={(event) => setMinutes(event.target.value)}
        />
      </label>
      <div className="flex gap-2">
        <button
          type="button"
          className="btn btn-sm btn-primary"
          disabled={!title.trim() || !reason.trim() || !(Number(minutes) > 0)}
          onClick={() => {
            add({
              id,
              phase,
              title: title.trim(),
              detail: '',
              reason: reason.trim(),
              minutes: Number(minutes),
              question: '',
            });
            setOpen(false);
            setTitle('');
            setReason('');
          }}
        >
          Add step
        </button>
        <button type="button" className="btn btn-sm btn-ghost" onClick={() => setOpen(false)}>
          Cancel
        </button>
      </div>
    </div>
  );
}
