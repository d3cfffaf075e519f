import { useEffect, useRef, useState } from 'react';
import { CHOICES, differences } from '../../../core/procedures/choices';
import type { Method } from '../../../core/procedures/types';
import { sayRule } from '../../../core/winding/slack';
import type { Job } from '../../../server/bench/jobs';
import { Field } from '../../ui/Field';
import { Told } from '../../ui/Told';
import { useCommand } from '../../ui/useCommand';

/** Another way for this one job: what, and once why. The card is made anew; what is answered stays so. */
export function Depart({
  job,
  method,
  begun,
  measured,
  close,
}: {
  job: Job;
  method: Method;
  /** Strings are slack: how many at a time and the order are settled. */
  begun: boolean;
  /** The slack is the house's to choose: no lock, pegbox or tree decides it. */
  measured: boolean;
  close: () => void;
}) {
  const [chosen, setChosen] = useState<Partial<Method>>({});
  const [own, setOwn] = useState({ slack: '', slackPlain: '' });
  const [reason, setReason] = useState('');
  const { run, busy: sending, says, quiet } = useCommand();
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => {
    heading.current?.focus();
    heading.current?.scrollIntoView({ block: 'center' });
  }, []);
  const now = { ...method, ...chosen };
  const differs = differences(method, now);
  const pick = <K extends keyof Method>(name: K, value: Method[K]) => {
    quiet();
    setChosen({ ...chosen, [name]: value });
  };
  const send = async () => {
    const departed = await run(`/api/jobs/${job.id}/depart`, {
      expectedVersion: job.version,
      method: chosen,
      reason,
    });
    if (departed) location.reload();
  };
  const row = <K extends 'atATime' | 'order' | 'finish' | 'winds' | 'hole'>(name: K, label: string) => (
    <Field label={label} large>
      <select
        className="select min-h-14 text-lg w-full"
        value={String(now[name])}
        onChange={(e) => {
          const value = CHOICES[name].find((c) => String(c.value) === e.currentTarget.value)?.value;
          if (value !== undefined) pick(name, value as Method[K]);
        }}
      >
        {CHOICES[name].map((c) => (
          <option key={c.value} value={String(c.value)}>
            {c.name}
          </option>
        ))}
      </select>
    </Field>
  );
  return (
    <section className="card-paper border-primary p-5 mt-4 max-w-4xl" aria-label="Change the method" data-own-keys>
      <h2 ref={heading} tabIndex={-1} className="font-bold mb-2 outline-none">
        Change the method, this time only
      </h2>
      <div className="grid gap-3 md:grid-cols-2 text-lg">
        {!begun && row('atATime', 'Strings at a time')}
        {!begun && row('order', 'Order')}
        {!begun && row('finish', 'Finish first')}
        {measured &&
          (['slack', 'slackPlain'] as const).map((name) => (
            <label key={name} className="grid gap-1">
              <span>{name === 'slack' ? 'Slack, mm' : 'Slack for plain strings, mm'}</span>
              <input
                className="input min-h-14 text-lg w-full"
                type="number"
                inputMode="numeric"
                min={0}
                max={500}
                step={5}
                placeholder={now[name] ? sayRule(now[name]) : 'same as the others'}
                value={own[name]}
                onChange={(e) => {
                  const text = e.currentTarget.value;
                  setOwn({ ...own, [name]: text });
                  const mm = Number(text);
                  if (text !== '' && mm >= 0 && mm <= 500) pick(name, { kind: 'length', mm });
                  else pick(name, method[name]);
                }}
              />
            </label>
          ))}
        {row('winds', 'Winds')}
        {row('hole', 'Hole')}
        <Field label="Trim" large>
          <select
            className="select min-h-14 text-lg w-full"
            value={now.trim.when}
            onChange={(e) => pick('trim', { ...now.trim, when: e.currentTarget.value as Method['trim']['when'] })}
          >
            {CHOICES.trimWhen.map((c) => (
              <option key={c.value} value={c.value}>
                {c.name}
              </option>
            ))}
          </select>
        </Field>
        <Field label="Rounds of stretching" large>
          <select
            className="select min-h-14 text-lg w-full"
            value={now.stretchRounds}
            onChange={(e) => pick('stretchRounds', Number(e.currentTarget.value))}
          >
            {[0, 1, 2, 3, 4].map((n) => (
              <option key={n} value={n}>
                {n === 0 ? 'none, play and retune' : n === 1 ? 'one light tug' : n}
              </option>
            ))}
          </select>
        </Field>
        <Field label="Reason (kept in the record)" large className="md:col-span-2">
          <input
            className="input min-h-14 text-lg w-full"
            maxLength={300}
            value={reason}
            onChange={(e) => {
              quiet();
              setReason(e.currentTarget.value);
            }}
          />
        </Field>
      </div>
      <Told says={says} className="mt-2 text-lg" />
      <div className="flex flex-wrap gap-2 mt-3">
        <button
          type="button"
          className="btn btn-primary min-h-14 text-lg"
          disabled={sending || differs.length === 0 || reason.trim().length < 3}
          onClick={() => void send()}
        >
          {differs.length === 0 ? 'Nothing changed yet' : 'Update the steps'}
        </button>
        <button type="button" className="btn min-h-14 text-lg" onClick={close}>
          Keep the usual method
        </button>
      </div>
    </section>
  );
}
