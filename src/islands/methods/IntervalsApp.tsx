import { keepPreviousData, QueryClient, QueryClientProvider, useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { useForm } from 'react-hook-form';
import { tagPath } from '../../../core/instruments/tag';
import type { CareRule } from '../../../core/wear/due';
import { type IntervalScope, intervalProblems, SCHOOL_NAMES, sayCareRule } from '../../../core/wear/intervals';
import type { IntervalEffect } from '../../../server/methods/intervals';
import { Field } from '../../ui/Field';
import { post } from '../../ui/post';
import { Told } from '../../ui/Told';
import { useCommand } from '../../ui/useCommand';

interface Line {
  scope: IntervalScope;
  of: string;
  name: string;
  version: number;
  rule: CareRule;
  instruments: number;
  why: string;
  said: string;
}
interface Props {
  lines: Line[];
  /** Sets of strings in the catalogue, with the family of each. */
  sets: { id: number; name: string; family: string }[];
  /** The day up to which effects are counted, and how it is said. */
  horizon: string;
  horizonName: string;
}

/** An interval that is being set where there is none yet. */
type Target = Pick<Line, 'scope' | 'of' | 'name' | 'version' | 'rule'>;

const many = (n: number, one: string, more = `${one}s`) => `${n} ${n === 1 ? one : more}`;
const idOf = (line: Pick<Line, 'scope' | 'of'>) => `${line.scope}:${line.of}`;

export function IntervalsApp(props: Props) {
  const [client] = useState(() => new QueryClient());
  const [ready, setReady] = useState(false);
  useEffect(() => setReady(true), []);
  return (
    <QueryClientProvider client={client}>
      <div data-ready={ready}>
        <Intervals {...props} />
      </div>
    </QueryClientProvider>
  );
}

function Intervals({ lines, sets, horizon, horizonName }: Props) {
  const [open, setOpen] = useState<string | null>(null);
  const [adding, setAdding] = useState<Target | null>(null);
  const families = lines.filter((l) => l.scope === 'family');
  const own = lines.filter((l) => l.scope !== 'family');
  const close = () => {
    setOpen(null);
    setAdding(null);
  };
  const row = (line: Line) => (
    <li key={idOf(line)} className="quiet-row py-2">
      <div className="grid gap-x-4 gap-y-0.5 sm:grid-cols-[13rem_1fr_auto] items-baseline *:min-w-0">
        <span className={`font-semibold ${line.scope === 'instrument' ? 'tag' : ''}`}>{line.name}</span>
        <span>
          {sayCareRule(line.rule)}
          <span className="block text-sm muted">
            {many(line.instruments, 'instrument')} · version {line.version}, {line.said}
            {line.why ? `: ${line.why}` : ''}
          </span>
        </span>
        <button
          type="button"
          className="btn btn-sm justify-self-start"
          aria-expanded={open === idOf(line)}
          aria-label={`Change the interval for ${line.name}`}
          onClick={() => {
            setAdding(null);
            setOpen(open === idOf(line) ? null : idOf(line));
          }}
        >
          {open === idOf(line) ? 'Close' : 'Change'}
        </button>
      </div>
      {open === idOf(line) && <Editor line={line} horizon={horizon} horizonName={horizonName} close={close} />}
    </li>
  );
  return (
    <div className="grid gap-6">
      <section aria-label="Families">
        <ul className="card-paper px-4 py-1">{families.map(row)}</ul>
      </section>
      <section aria-labelledby="own">
        <h2 id="own" className="font-bold mb-2">
          Sets and instruments with their own interval
        </h2>
        {own.length > 0 && <ul className="card-paper px-4 py-1 mb-3">{own.map(row)}</ul>}
        {adding ? (
          <div className="card-paper px-4 py-2">
            <p className="font-semibold">{adding.name}</p>
            <Editor line={adding} horizon={horizon} horizonName={horizonName} close={close} />
          </div>
        ) : (
          <Adding
            sets={sets.filter((s) => !own.some((o) => o.scope === 'product' && o.of === String(s.id)))}
            lines={lines}
            choose={(target) => {
              setOpen(null);
              setAdding(target);
            }}
          />
        )}
      </section>
    </div>
  );
}

/** Choosing what gets an interval of its own. It starts from what holds now. */
function Adding({ sets, lines, choose }: { sets: Props['sets']; lines: Line[]; choose: (target: Target) => void }) {
  const { register, handleSubmit, watch } = useForm({ defaultValues: { set: '', tag: '' } });
  const usual = lines[0]?.rule;
  const of = (family: string | undefined) => lines.find((l) => l.scope === 'family' && l.of === family)?.rule ?? usual;
  return (
    <form
      className="flex flex-wrap items-end gap-3"
      aria-label="Add an interval"
      onSubmit={handleSubmit(({ set, tag }) => {
        const chosen = sets.find((s) => String(s.id) === set);
        const rule = of(chosen?.family);
        if (!rule) return;
        if (chosen) choose({ scope: 'product', of: set, name: chosen.name, version: 0, rule });
        else if (tag.trim()) choose({ scope: 'instrument', of: tag.trim(), name: tag.trim(), version: 0, rule });
      })}
    >
      <Field label="For a set of strings">
        <select className="select w-72 max-w-full" {...register('set')}>
          <option value="">choose</option>
          {sets.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
        </select>
      </Field>
      <Field label="or for one instrument">
        <input className="input tag w-36" placeholder="tag" {...register('tag')} />
      </Field>
      <button type="submit" className="btn" disabled={!watch('set') && !watch('tag').trim()}>
        Set an interval
      </button>
    </form>
  );
}

interface Fields extends CareRule {
  why: string;
}

function Editor({
  line,
  horizon,
  horizonName,
  close,
}: {
  line: Target;
  horizon: string;
  horizonName: string;
  close: () => void;
}) {
  const { register, handleSubmit, watch, formState } = useForm<Fields>({ defaultValues: { ...line.rule, why: '' } });
  const { run, busy, says } = useCommand();
  const first = useRef<HTMLDivElement>(null);
  useEffect(() => first.current?.querySelector('select')?.focus(), []);
  const { why, ...typed } = watch();
  const rule: CareRule = {
    school: typed.school,
    calendarDays: Number(typed.calendarDays),
    playHours: Number(typed.playHours),
    neverOverDays: Number(typed.neverOverDays),
  };
  const problems = intervalProblems(rule);
  const changed = line.version === 0 || JSON.stringify(rule) !== JSON.stringify(line.rule);
  const numbers = { valueAsNumber: true } as const;
  const done = (kept: { version: number } | null) => kept && location.reload();
  const save = handleSubmit(async () => {
    done(await run('/api/intervals', { scope: line.scope, of: line.of, rule, expectedVersion: line.version, why }));
  });
  const withdraw = async () => {
    if (line.scope === 'family') return;
    done(await run('/api/intervals/withdraw', { scope: line.scope, of: line.of, expectedVersion: line.version, why }));
  };
  return (
    <form className="mt-3 grid gap-3" onSubmit={save} aria-label={`Interval for ${line.name}`}>
      <div ref={first} className="grid gap-3 sm:grid-cols-2 lg:grid-cols-4">
        <Field label="Counted by">
          <select className="select w-full" {...register('school')}>
            {Object.entries(SCHOOL_NAMES).map(([value, name]) => (
              <option key={value} value={value}>
                {name}
              </option>
            ))}
          </select>
        </Field>
        <Field label="Days">
          <input type="number" min={1} className="input w-full" {...register('calendarDays', numbers)} />
        </Field>
        <Field label="Hours played">
          <input type="number" min={1} className="input w-full" {...register('playHours', numbers)} />
        </Field>
        <Field label="At most, days">
          <input type="number" min={1} className="input w-full" {...register('neverOverDays', numbers)} />
        </Field>
      </div>
      <div aria-live="polite">
        {problems.length > 0 ? (
          problems.map((p) => (
            <p key={p} className="text-error">
              {p}
            </p>
          ))
        ) : changed ? (
          <Effect line={line} rule={rule} horizon={horizon} horizonName={horizonName} />
        ) : (
          <p className="muted">Change a number to see the effect.</p>
        )}
      </div>
      <Field label="Reason">
        <input className="input w-full" maxLength={300} {...register('why', { required: true, minLength: 3 })} />
        {formState.errors.why && (
          <span className="text-error text-sm">Give a short reason; it is kept with the version.</span>
        )}
      </Field>
      <Told says={says} />
      <div className="flex flex-wrap gap-3">
        <button type="submit" className="btn btn-primary" disabled={busy || !changed || problems.length > 0}>
          Save as version {line.version + 1}
        </button>
        {line.scope !== 'family' && line.version > 0 && (
          <button type="button" className="btn" disabled={busy} onClick={() => void withdraw()}>
            Remove it: use the general interval
          </button>
        )}
        <button type="button" className="btn btn-ghost" onClick={close}>
          Cancel
        </button>
      </div>
    </form>
  );
}

/** Typing is not asked about letter by letter. */
function useSettled<T>(value: T, ms: number): T {
  const text = JSON.stringify(value);
  const [settled, setSettled] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(text), ms);
    return () => clearTimeout(timer);
  }, [text, ms]);
  return JSON.parse(settled) as T;
}

function Effect({
  line,
  rule,
  horizon,
  horizonName,
}: {
  line: Target;
  rule: CareRule;
  horizon: string;
  horizonName: string;
}) {
  const asked = useSettled({ scope: line.scope, of: line.of, rule, by: horizon }, 250);
  const { data, error, isFetching } = useQuery({
    queryKey: ['interval', asked],
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: async () => {
      const answer = await post<IntervalEffect>('/api/intervals/preview', asked);
      if (!answer.ok)
        throw new Error(answer.problem?.detail ?? 'No answer from the server, so the effect is not known.');
      return answer.value;
    },
  });
  if (error) return <p className="text-error">{error.message}</p>;
  if (!data) return <p className="muted">Working out the effect…</p>;
  const tags = (says: string, list: string[], all: number) =>
    list.length > 0 && (
      <p className="flex flex-wrap gap-x-3 text-sm">
        <span>{says}</span>
        {list.map((tag) => (
          <a key={tag} className="tag link" href={`/instruments/${tagPath(tag)}`}>
            {tag}
          </a>
        ))}
        {all > list.length && <span>and {all - list.length} more</span>}
      </p>
    );
  const become = Math.max(data.become.length, data.dueThen - data.dueNow);
  const leave = Math.max(data.leave.length, data.dueNow - data.dueThen);
  return (
    <div className={isFetching ? 'opacity-60' : ''} data-effect>
      <p>
        <b>
          {data.instruments === 0
            ? 'No instrument uses it yet.'
            : data.dueThen === data.dueNow
              ? `Still ${data.dueNow} of ${data.instruments} due by ${horizonName}.`
              : `${data.dueThen} of ${data.instruments} due by ${horizonName}, instead of ${data.dueNow}.`}
        </b>{' '}
        {data.sooner > 0 && `${many(data.sooner, 'comes', 'come')} up sooner. `}
        {data.later > 0 && `${many(data.later, 'comes', 'come')} up later. `}
        {data.instruments > 0 && data.sooner + data.later === 0 && 'No dates move: other reasons come first.'}
      </p>
      {tags('Newly due:', data.become, become)}
      {tags('No longer due:', data.leave, leave)}
    </div>
  );
}
