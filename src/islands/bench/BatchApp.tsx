import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { count } from '../../../core/count';
import { tagPath } from '../../../core/instruments/tag';
import { phaseTimes, type TimedAnswer } from '../../../core/procedures/times';
import type { Stint } from '../../../core/procedures/together';
import { PHASE_NAMES, PHASES } from '../../../core/procedures/types';
import type { BenchView } from '../../../server/bench/page';
import type { KitLine } from '../../../server/today/today';
import { StringStrip } from '../../components/StringStrip';
import { useHotKeys } from '../../ui/useHotKeys';
import { onScan } from '../scan';
import { BenchApp } from './BenchApp';
import { clockAhead } from './device';
import { Key } from './Key';
import { openKeep } from './keep';
import { type LocalAnswer, mergeAnswers } from './useAnswers';
import type { BatchTurn } from './useBench';

interface Props {
  views: BenchView[];
  /** Tags of this batch that are recorded already. */
  recorded: string[];
  stints: Stint[];
  savedMinutes: number;
  openedAt: number;
  kit: KitLine[];
  me: string;
  personId: number;
  now: number;
}

const answered = (a: LocalAnswer) => a.outcome === 'done' || a.outcome === 'skipped';

/**
 * Several instruments on one bench, phase by phase. It says which one is in hand now; the tag is scanned, or a key
 * pressed, when the next one is taken. Any other may be taken out of turn.
 */
export function BatchApp(props: Props) {
  const { views, stints } = props;
  const [answers, setAnswers] = useState<ReadonlyMap<number, readonly LocalAnswer[]> | null>(null);
  const [closed, setClosed] = useState<ReadonlySet<number>>(new Set());
  const [inHand, setInHand] = useState<number | null>(null);
  const [passedKit, setPassedKit] = useState(false);
  const [notice, setNotice] = useState('');
  const [putAside, setPutAside] = useState<string | null>(null);
  const heading = useRef<HTMLHeadingElement>(null);
  const viewOf = (id: number | null | undefined) => views.find((v) => v.job.id === id);

  useEffect(() => {
    void (async () => {
      const keep = await openKeep();
      const known = await Promise.all(
        views.map(async (v) => [v.job.id, mergeAnswers(v.job.answers, await keep.ofJob(v.job.id))] as const),
      );
      setAnswers(new Map(known));
    })();
  }, [views]);

  /** The first stretch in the order that is not through; the last of each instrument ends with its record. */
  const turnOf = useCallback(
    (given: ReadonlyMap<number, readonly LocalAnswer[]>, done: ReadonlySet<number>, only?: number) =>
      stints.find((s, i) => {
        if (done.has(s.pieceId) || (only !== undefined && s.pieceId !== only)) return false;
        if (!views.some((v) => v.job.id === s.pieceId)) return false;
        const of = new Set((given.get(s.pieceId) ?? []).filter(answered).map((a) => a.step));
        const last = !stints.slice(i + 1).some((later) => later.pieceId === s.pieceId);
        return last || s.steps.some((key) => !of.has(key));
      }),
    [stints, views],
  );
  const turn = useMemo(() => (answers ? turnOf(answers, closed) : undefined), [answers, closed, turnOf]);

  const answeredAt = useCallback(
    (jobId: number, all: readonly LocalAnswer[], step: string) => {
      if (!answers) return;
      const now = new Map(answers).set(jobId, all);
      setAnswers(now);
      const stretch = stints.find((s) => s.pieceId === jobId && s.steps.includes(step));
      const of = new Set(all.filter(answered).map((a) => a.step));
      // The stretch is through and somebody else's comes next: this one is put aside.
      if (stretch?.steps.every((key) => of.has(key)) && turnOf(now, closed)?.pieceId !== jobId) {
        setInHand(null);
        setPutAside(views.find((v) => v.job.id === jobId)?.job.tag ?? null);
      }
    },
    [answers, closed, stints, turnOf, views],
  );
  const recorded = useCallback((jobId: number) => {
    setClosed((known) => new Set(known).add(jobId));
    setPutAside(null);
    setInHand(null);
  }, []);
  const take = useCallback((jobId: number, says = '') => {
    setNotice(says);
    setInHand(jobId);
  }, []);

  useEffect(
    () =>
      onScan((code) => {
        const view = views.find((v) => v.job.tag.toUpperCase() === code.toUpperCase());
        if (!view) setNotice(`${code} is not in this batch.`);
        else if (closed.has(view.job.id)) setNotice(`${code} is already recorded.`);
        else {
          setPassedKit(true);
          const inTurn = !turn || turn.pieceId === view.job.id;
          take(view.job.id, inTurn ? '' : `${view.job.tag} is out of turn; here is its current step.`);
        }
        return true;
      }),
    [views, closed, turn, take],
  );
  const begun = answers !== null && [...answers.values()].some((list) => list.length > 0);
  const kit = answers !== null && !begun && !passedKit;
  const between = inHand === null && answers !== null;
  const onward = () => {
    if (kit) return setPassedKit(true);
    return turn ? take(turn.pieceId) : false;
  };
  useHotKeys({ Space: onward, Enter: onward }, between);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the heading of each new screen is what is read next
  useEffect(() => {
    if (between) heading.current?.focus();
  }, [between, kit, turn]);

  const timed = (of: (id: number) => boolean): TimedAnswer[] =>
    [...(answers ?? [])].flatMap(([jobId, list]) =>
      of(jobId) ? list.filter(answered).map((a) => ({ jobId, step: a.step, at: a.at })) : [],
    );
  const [ahead] = useState(() => clockAhead(props.now));
  // Work begins when the batch is opened here, or earlier when it was.
  const view = viewOf(inHand);
  const batch: BatchTurn | undefined = view && {
    answered: answeredAt,
    recorded,
    others: timed((id) => id !== view.job.id),
    startedAt: props.openedAt,
  };
  return (
    <div className="min-h-screen flex flex-col">
      <nav aria-label="On this bench" className="flex flex-wrap items-center gap-2 px-7 pt-3">
        <a className="btn btn-ghost min-h-14 text-lg px-3" href="/" title="Leave the bench; your place is kept">
          Today
        </a>
        {props.recorded.map((tag) => (
          <a key={tag} className="card-paper px-3 py-1.5 min-h-14 leading-tight" href={`/instruments/${tagPath(tag)}`}>
            <span className="tag font-bold">{tag}</span>
            <span className="block text-base muted">recorded</span>
          </a>
        ))}
        {views.map((v) => {
          const list = answers?.get(v.job.id) ?? [];
          const steps = v.job.procedure?.steps ?? [];
          const of = new Set(list.filter(answered).map((a) => a.step));
          const next = steps.find((s) => !of.has(s.key));
          const done = closed.has(v.job.id);
          const now = v.job.id === inHand;
          return (
            <button
              key={v.job.id}
              type="button"
              disabled={done}
              aria-current={now ? 'true' : undefined}
              className={`card-paper px-3 py-1.5 min-h-14 text-left leading-tight ${now ? 'border-primary border-2' : ''} ${turn?.pieceId === v.job.id && !now ? 'border-accent' : ''}`}
              onClick={() => take(v.job.id)}
            >
              <span className="tag font-bold">{v.job.tag}</span>
              <span className={`block text-base ${now ? 'font-semibold' : 'muted'}`}>
                {done ? 'recorded' : now ? 'now' : next ? PHASE_NAMES[next.phase].toLowerCase() : 'ready to record'}
              </span>
            </button>
          );
        })}
      </nav>
      {notice && (
        <p role="status" className="px-7 pt-2 text-lg text-warning">
          {notice}
        </p>
      )}
      {view && batch ? (
        <BenchApp key={view.job.id} {...view} me={props.me} personId={props.personId} now={props.now} batch={batch} />
      ) : (
        <main className="px-7 py-5 grow text-[22px]" data-ready={answers !== null}>
          {answers === null ? (
            <p className="muted">Loading…</p>
          ) : kit ? (
            <BatchKit {...props} heading={heading} start={() => setPassedKit(true)} />
          ) : turn ? (
            <Handover
              turn={turn}
              view={viewOf(turn.pieceId) as BenchView}
              aside={putAside}
              first={!begun}
              heading={heading}
              take={() => take(turn.pieceId)}
            />
          ) : (
            <Through
              views={views}
              times={timed(() => true)}
              openedAt={props.openedAt}
              now={Date.now() - ahead}
              heading={heading}
            />
          )}
        </main>
      )}
    </div>
  );
}

/** "Slacken, take off": the phases of a stretch in words. */
const phrase = (turn: Stint) => {
  const names = turn.phases.map((p, i) => (i === 0 ? PHASE_NAMES[p] : PHASE_NAMES[p].toLowerCase()));
  return names.length > 3 ? `${names[0]} through to ${names.at(-1)}` : names.join(', ');
};

type HeadingRef = React.RefObject<HTMLHeadingElement | null>;

function Handover(p: {
  turn: Stint;
  view: BenchView;
  aside: string | null;
  first: boolean;
  heading: HeadingRef;
  take: () => void;
}) {
  const { job, name } = p.view;
  return (
    <section className="max-w-4xl grid gap-4">
      <p className="muted text-lg">
        {p.aside ? `Set ${p.aside} aside. ` : ''}
        {p.first ? 'Start with:' : 'Now take:'}
      </p>
      <h1 ref={p.heading} tabIndex={-1} className="text-[44px] font-bold leading-tight outline-none">
        <span className="tag">{job.tag}</span> {name}
      </h1>
      <p className="text-[26px]">
        {phrase(p.turn)}. <span className="muted">{p.view.parts}.</span>
      </p>
      <StringStrip strings={p.view.strip} width={760} height={96} courses={p.view.positions.map((x) => x.course)} />
      <p className="flex flex-wrap items-center gap-3">
        <button type="button" className="btn btn-primary min-h-14 text-xl px-6" onClick={p.take}>
          <kbd className="kbd-key bg-transparent">space</kbd> work on {job.tag}
        </button>
        <span className="muted">or scan its tag; scan another tag to work on that one</span>
      </p>
    </section>
  );
}

function BatchKit(p: Props & { heading: HeadingRef; start: () => void }) {
  const tools = [
    ...new Set(p.views.flatMap((v) => [...(v.job.procedure?.tools ?? []), ...(v.job.procedure?.consumables ?? [])])),
  ];
  const short = p.kit.filter((k) => k.state === 'short');
  const minutes = p.views.reduce((sum, v) => sum + (v.job.procedure?.minutes ?? 0), 0);
  return (
    <section className="grid gap-5 max-w-5xl">
      <div>
        <p className="muted text-lg">
          Kit for {p.views.length} instruments, about {count(Math.round(minutes - p.savedMinutes), 'minute')}
          {p.savedMinutes >= 1 && `; working in this order saves ${Math.round(p.savedMinutes)} min`}
        </p>
        <h1 ref={p.heading} tabIndex={-1} className="text-[34px] leading-tight font-bold outline-none">
          {short.length
            ? `Before you start: ${count(short.length, 'set is', 'sets are')} not in stock`
            : 'Lay everything out before you slacken a string.'}
        </h1>
      </div>
      <ul className="card-paper px-4 py-1" aria-label="Strings to take">
        {p.kit.map((k) => (
          <li key={`${k.name}/${k.state}`} className="quiet-row py-1.5 flex flex-wrap gap-x-4">
            <b className="w-12">{k.quantity}</b>
            <span className="grow">{k.name}</span>
            <span
              className={
                k.state === 'short' ? 'text-error font-semibold' : k.state === 'last' ? 'text-warning' : 'muted'
              }
            >
              {k.spare ? `+ ${k.spare} spare; ` : ''}
              {k.note}
            </span>
          </li>
        ))}
      </ul>
      <p>{tools.join(', ')}</p>
      <ol className="card-paper px-4 py-1 text-lg" aria-label="Order of work">
        {orderLines(p.stints, p.views).map((line) => (
          <li key={line} className="quiet-row py-1">
            {line}
          </li>
        ))}
      </ol>
      <div>
        <button type="button" className="btn btn-primary min-h-14 text-xl px-6" onClick={p.start}>
          <kbd className="kbd-key bg-transparent">space</kbd> {short.length ? 'start anyway' : 'all here: start'}
        </button>
      </div>
    </section>
  );
}

/** The order of work, stints of the same phases on one line. */
function orderLines(stints: readonly Stint[], views: readonly BenchView[]): string[] {
  const lines: { what: string; tags: string[] }[] = [];
  for (const s of stints) {
    const tag = views.find((v) => v.job.id === s.pieceId)?.job.tag;
    if (!tag) continue;
    const what = phrase(s);
    const last = lines.at(-1);
    if (last?.what === what && !last.tags.includes(tag)) last.tags.push(tag);
    else lines.push({ what, tags: [tag] });
  }
  return lines.map((l) => `${l.what}: ${l.tags.join(', ')}`);
}

function Through(p: { views: BenchView[]; times: TimedAnswer[]; openedAt: number; now: number; heading: HeadingRef }) {
  const { times, pausedMinutes } = phaseTimes(
    new Map(p.views.map((v) => [v.job.id, v.job.procedure?.steps ?? []])),
    p.times,
    p.openedAt,
  );
  const minutes = (n: number) => (n < 1 ? 'under 1' : String(Math.round(n)));
  const byPhase = PHASES.map((phase) => ({
    phase,
    minutes: times.filter((t) => t.phase === phase).reduce((sum, t) => sum + t.minutes, 0),
    expected: p.views.reduce(
      (sum, v) => sum + (v.job.procedure?.steps ?? []).reduce((a, s) => a + (s.phase === phase ? s.minutes : 0), 0),
      0,
    ),
  })).filter((x) => x.expected > 0);
  return (
    <section className="grid gap-5 max-w-4xl">
      <h1 ref={p.heading} tabIndex={-1} className="text-[38px] font-bold outline-none">
        All {p.views.length} recorded
      </h1>
      <table className="text-lg w-full max-w-xl">
        <caption className="text-left muted">
          Minutes by phase{pausedMinutes >= 1 ? `, not counting ${Math.round(pausedMinutes)} min of breaks` : ''}
        </caption>
        <thead>
          <tr className="text-left">
            <th className="py-1">Phase</th>
            <th className="text-right">actual</th>
            <th className="text-right">usual</th>
          </tr>
        </thead>
        <tbody>
          {byPhase.map((x) => (
            <tr key={x.phase} className="quiet-row">
              <td className="py-1">{PHASE_NAMES[x.phase]}</td>
              <td className="text-right">{minutes(x.minutes)}</td>
              <td className="text-right muted">{minutes(x.expected)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <ul className="grid gap-2">
        {p.views.map((v) => (
          <li key={v.job.id}>
            <a className="link tag" href={`/instruments/${tagPath(v.job.tag)}`}>
              {v.job.tag}
            </a>{' '}
            <a className="link text-lg" href={`/instruments/${tagPath(v.job.tag)}/label`}>
              ready-by label
            </a>
          </li>
        ))}
      </ul>
      <p>
        <a className="btn btn-primary min-h-14 text-xl" href="/">
          <Key>⏎</Key> Back to Today
        </a>
      </p>
    </section>
  );
}
