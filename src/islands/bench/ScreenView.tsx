import { useEffect, useRef } from 'react';
import { sayGauge } from '../../../core/manner';
import { cautionsAt, numbersOf, type Said, type Screen, whoseWords, wordsOf } from '../../../core/procedures/led';
import { isLocking } from '../../../core/procedures/numbers';
import { CAUTIONS } from '../../../core/procedures/reference';
import { type Check, type Method, PHASE_NAMES, type Step } from '../../../core/procedures/types';
import { turnsOver } from '../../../core/procedures/winds';
import { countWord, postWord, sayList, sayQuantity } from '../../../core/procedures/words';
import { tightens } from '../../../core/winding/post';
import type { BenchPosition, BenchView } from '../../../server/bench/page';
import { PostDrawing } from '../../components/drawings/PostDrawing';
import { TailDrawing } from '../../components/drawings/TailDrawing';
import { Filled } from '../../components/Filled';
import { StringStrip } from '../../components/StringStrip';
import { Key } from './Key';

interface Props {
  screens: readonly Screen[];
  index: number;
  bench: BenchView;
  method: Method | undefined;
  heading: React.RefObject<HTMLHeadingElement | null>;
  ticked: ReadonlySet<string>;
  tick: (steps: readonly Step[]) => void;
  /** Only what has to be seen beside the tuner. */
  compact: boolean;
}

const unique = <T,>(list: readonly T[]): T[] => [...new Set(list)];

const lowerFirst = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);

function Sentence({ said, bench, screen }: { said: Said; bench: BenchView; screen: Screen }) {
  const whose = whoseWords(
    said,
    bench.tuned
      .filter((t) => screen.positions.includes(t.number))
      .map((t) => ({ ...t, note: bench.positions.find((p) => p.number === t.number)?.note ?? '' })),
  );
  return (
    <>
      {whose}
      <Filled text={whose ? lowerFirst(said.text) : said.text} numbers={said.numbers} />
    </>
  );
}

/** What a screen is called: its one step, what is done on its strings, or its phase. */
export function Title({ screen, bench }: { screen: Screen; bench: BenchView }) {
  const only = bench.positions.find((p) => p.number === screen.positions[0]);
  if (screen.kind === 'one-string' && only)
    return (
      <>
        {only.note} (string {only.number}, {only.lies} side):{' '}
        {screen.steps.some((s) => s.phase === 'remove')
          ? 'the old one off, the new one on'
          : 'from its tail to near pitch'}
      </>
    );
  if (screen.kind === 'list') return <>{LIST_TITLES[screen.phase] ?? PHASE_NAMES[screen.phase]}</>;
  return wordsOf(screen).title.map((said) => (
    <span key={said.text} className="block">
      <Sentence said={said} bench={bench} screen={screen} />
    </span>
  ));
}

/** Where in the job a screen is: its phase, or among the strings that come off and go on one at a time. */
export const stageOf = (screen: Screen): string =>
  screen.kind === 'one-string' || screen.steps[0]?.id === 'near-pitch.bridge'
    ? 'One string at a time'
    : PHASE_NAMES[screen.phase];

const LIST_TITLES: Partial<Record<Screen['phase'], string>> = {
  prepare: 'Lay it down and lay everything out.',
  slacken: 'Slacken completely, then open the locks.',
  remove: 'Take the old strings off.',
  clean: 'Clean, and look at what is bare now.',
  tune: 'Up to pitch, always from below.',
  'last-checks': 'Last checks.',
};

/** What is asked on a screen, each question once, with the strings or steps it is asked of. */
export function checksOf(screen: Screen): { check: Check; steps: Step[] }[] {
  const found = new Map<string, { check: Check; steps: Step[] }>();
  for (const step of screen.steps) {
    if (!step.check) continue;
    const known = found.get(step.check.question);
    if (known) known.steps.push(step);
    else found.set(step.check.question, { check: step.check, steps: [step] });
  }
  return [...found.values()];
}

/** Several strings, or several short steps, on one screen: the technique once, a row for each with its numbers and tick. */
export function ScreenView(p: Props) {
  const { screens, index, bench, screen } = { ...p, screen: p.screens[p.index] as Screen };
  const words = wordsOf(screen);
  const { same } = numbersOf(screen);
  const next = screens[index + 1];
  const strings = screen.kind === 'strings';
  const where = strings
    ? screen.positions.length === bench.positions.length
      ? `all ${countWord(screen.positions.length)} strings`
      : sayList(screen.positions.map((n) => bench.positions.find((x) => x.number === n)?.note ?? ''))
    : '';
  const notYet = unique(screen.steps.flatMap((s) => s.notYet ?? []));
  const gates = unique(screen.steps.flatMap((s) => s.gate ?? []));
  const many = words.title.length > 1;
  return (
    <div className="grid gap-x-8 lg:grid-cols-[1fr_310px] mt-2 grow content-start">
      <section className="min-w-0">
        <p className="muted text-lg">
          {stageOf(screen)}
          {where && `, ${where}`} · {index + 1} of {screens.length}
        </p>
        <h1
          ref={p.heading}
          tabIndex={-1}
          className={`text-[26px] ${many || p.compact ? 'sm:text-[26px]' : 'sm:text-[36px]'} leading-tight font-bold mt-1 outline-none max-w-[32em]`}
        >
          <Title screen={screen} bench={bench} />
        </h1>
        {strings && words.detail.length > 0 && (
          <p className="mt-1.5 text-[19px] leading-snug max-w-[44em]">
            {words.detail.map((said) => (
              <span key={said.text}>
                <Sentence said={said} bench={bench} screen={screen} />{' '}
              </span>
            ))}
          </p>
        )}
        {strings ? <StringRows {...p} screen={screen} /> : <StepRows {...p} screen={screen} />}
        <div className={`flex flex-wrap gap-3 mt-3 ${p.compact ? 'hidden' : ''}`}>
          {strings &&
            Object.entries(same)
              .filter(([name]) => !words.title.concat(words.detail).some((said) => said.text.includes(`{${name}}`)))
              .map(([name, q]) => (
                <div key={name} className="card-paper px-4 py-1.5">
                  <span className="muted text-base block">{q.label}</span>
                  <b className="text-[24px]">{sayQuantity(q)}</b>
                </div>
              ))}
          {notYet.map((text) => (
            <div key={text} className="card-paper border-accent px-4 py-1.5">
              <span className="muted text-base block">Not yet</span>
              {text}
            </div>
          ))}
          {gates.map((text) => (
            <div key={text} className="card-paper border-error px-4 py-1.5">
              <span className="muted text-base block">Careful</span>
              Cannot be undone. Only when: {lowerFirst(text)}
            </div>
          ))}
        </div>
        {cautionsAt(screens, index).map((id) => (
          <p key={id} className="mt-3 text-lg text-warning flex gap-2 max-w-[44em]">
            <span aria-hidden="true" className="font-bold">
              △
            </span>{' '}
            {CAUTIONS[id]}
          </p>
        ))}
      </section>
      <aside className="grid gap-4 content-start">
        {strings && !p.compact && screen.positions.length < bench.positions.length && (
          <div className="hidden lg:block">
            <StringStrip
              strings={bench.strip}
              width={310}
              height={Math.min(120, 16 * bench.positions.length)}
              courses={bench.positions.map((x) => x.course)}
              lit={screen.positions}
              stretch
            />
            <p className="muted text-base">Lit: {where}</p>
          </div>
        )}
        {!p.compact && <Drawing {...p} screen={screen} />}
        {strings &&
          checksOf(screen).map(({ check }) => (
            <div key={check.question} className="card-paper px-4 py-3">
              <p className="font-bold text-[22px]">{check.question}</p>
              <p className="muted text-lg">{check.good}</p>
            </div>
          ))}
        {next && !p.compact && (
          <p className="muted text-lg">
            next: <Title screen={next} bench={bench} />
          </p>
        )}
      </aside>
    </div>
  );
}

function StringRows({ screen, bench, ticked, tick }: Props & { screen: Screen }) {
  const { rows, label } = numbersOf(screen);
  const turned =
    screen.steps.some((s) => s.id === 'fit-post.wind') &&
    bench.build.head !== 'in-line' &&
    bench.build.head !== 'pegbox' &&
    bench.build.tuner !== 'roller';
  const now = screen.positions.find(
    (n) => !screen.steps.filter((s) => s.positions[0] === n).every((s) => ticked.has(s.key)),
  );
  return (
    <div className="card-paper mt-3 overflow-x-auto">
      <table className="w-full text-left text-[20px]" aria-label="Strings">
        <thead className="text-base muted">
          <tr>
            <th scope="col" className="font-normal px-3 py-1.5">
              <span className="sr-only">number</span>
            </th>
            <th scope="col" className="font-normal px-3">
              string
            </th>
            <th scope="col" className="font-normal px-3">
              gauge
            </th>
            {rows.map((name) => (
              <th key={name} scope="col" className="font-normal px-3">
                {lowerFirst(label[name] ?? name)}
              </th>
            ))}
            {turned && (
              <th scope="col" className="font-normal px-3">
                button turns
              </th>
            )}
            <th scope="col" className="font-normal px-3">
              tick
            </th>
          </tr>
        </thead>
        <tbody>
          {screen.positions.map((n) => {
            const position = bench.positions.find((p) => p.number === n) as BenchPosition;
            const own = screen.steps.filter((s) => s.positions[0] === n);
            const done = own.every((s) => ticked.has(s.key));
            const product = bench.choices.find((c) => c.id === position.houseProductId);
            const quantity = (name: string) => own.flatMap((s) => s.numbers?.[name] ?? [])[0];
            return (
              <tr key={n} className={`border-t border-base-300 ${n === now ? 'bg-base-300/50' : ''}`}>
                <td className="px-3 tag font-bold">{n}</td>
                <th scope="row" className="px-3 tag font-bold">
                  {position.note}
                </th>
                <td className="px-3 tag">{product ? sayGauge(product.gaugeMm) : ''}</td>
                {rows.map((name) => {
                  const q = quantity(name);
                  return (
                    <td key={name} className="px-3 whitespace-nowrap">
                      {q ? sayQuantity(q) : '–'}
                      {q?.hand && <span className="muted text-[17px]"> {q.hand}</span>}
                    </td>
                  );
                })}
                {turned && (
                  <td className="px-3 whitespace-nowrap">
                    {tightens(bench.build.head, position.side, bench.build.handedness)}
                  </td>
                )}
                <td className="px-3 py-0.5">
                  <Tick done={done} now={n === now} name={position.note} tick={() => tick(own)} />
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

/** Gauges as they stand on envelopes: thousandths of an inch. */

function Tick({ done, now, name, tick }: { done: boolean; now: boolean; name: string; tick: () => void }) {
  return (
    <button
      type="button"
      className={`btn btn-ghost min-h-11 text-lg px-3 font-semibold ${done ? 'text-primary' : now ? 'text-warning' : 'muted'}`}
      aria-pressed={done}
      aria-label={`${name}: ${done ? 'done' : 'tick'}`}
      disabled={done}
      onClick={tick}
    >
      {done ? '✓ done' : now ? 'now' : 'tick'}
    </button>
  );
}

function StepRows({ screens, index, screen, ticked, tick, compact }: Props & { screen: Screen }) {
  // How it is done is told in full on the first string; on the next ones what is done is enough.
  const told = new Set(
    screens
      .slice(0, index)
      .filter((s) => s.kind === screen.kind)
      .flatMap((s) => s.steps.map((x) => `${x.id}/${(x.it ?? x).detail}`)),
  );
  const now = screen.steps.find((s) => !ticked.has(s.key));
  return (
    <ol className="card-paper mt-3 overflow-hidden" aria-label="What to do">
      {screen.steps.map((s, i) => {
        const words = screen.kind === 'one-string' ? (s.it ?? s) : s;
        const done = ticked.has(s.key);
        return (
          <li
            key={s.key}
            className={`grid grid-cols-[1.6rem_1fr_auto] gap-x-3 items-center py-1 px-3 border-base-300 ${i > 0 ? 'border-t' : ''} ${s === now ? 'bg-base-300/50' : ''}`}
          >
            <span className="muted tag text-base">{i + 1}</span>
            <div>
              <p className="text-[20px] leading-snug font-semibold">
                <Filled text={words.title} numbers={s.numbers} />
              </p>
              {!compact && words.detail && !told.has(`${s.id}/${words.detail}`) && (
                <p className="text-[17px] leading-snug">
                  <Filled text={words.detail} numbers={s.numbers} />
                </p>
              )}
              {s.check && (
                <p className="text-[17px] leading-snug">
                  <b>{s.check.question}</b>{' '}
                  {!told.has(`${s.id}/${words.detail}`) && <span className="muted">{s.check.good}</span>}
                </p>
              )}
            </div>
            <Tick done={done} now={s === now} name={String(i + 1)} tick={() => tick([s])} />
          </li>
        );
      })}
    </ol>
  );
}

function Drawing({ screen, bench, method }: Props & { screen: Screen }) {
  const drawn = screen.steps.find((s) => s.drawing && s.drawing !== 'order');
  if (!drawn) return null;
  const position = bench.positions.find((p) => p.number === drawn.positions[0]);
  const product = bench.choices.find((c) => c.id === position?.houseProductId);
  // The whole row of winding steps has its number where it is wound.
  const winds = screen.steps.find((s) => s.positions[0] === drawn.positions[0] && s.numbers?.winds)?.numbers?.winds;
  return (
    <div className="grid place-items-center">
      {drawn.drawing === 'post' && winds && method ? (
        <PostDrawing
          kind={postWord(bench.build)}
          turns={winds.value}
          gaugeMm={product?.gaugeMm ?? 0.8}
          diameterMm={bench.build.post.diameterMm}
          over={turnsOver(method, product?.wound ?? true)}
          selfLock={method.winds === 'self-lock'}
          locking={isLocking(bench.build)}
          slotted={bench.build.tuner === 'slotted-post'}
          rotation={position ? tightens(bench.build.head, position.side, bench.build.handedness) : 'over-the-top'}
          stackMm={winds.value * (product?.gaugeMm ?? 0.8)}
          roomMm={bench.build.post.roomUnderHoleMm}
          away={drawn.numbers?.away?.value ?? 0}
        />
      ) : drawn.drawing === 'tail' ? (
        <TailDrawing
          tailEnd={bench.build.tailEnd}
          stringEnd={bench.build.stringEnd}
          turns={drawn.numbers?.turns?.value ?? 2}
        />
      ) : null}
    </div>
  );
}

/** The whole job on one page: what each screen says, with its numbers, gates and what stops it; the one in hand is lit. */
export function BriefView(p: Props) {
  const { screens, index, bench } = p;
  return (
    <div className="max-w-[1180px] mt-3 min-w-0">
      <h1 ref={p.heading} tabIndex={-1} className="text-[26px] sm:text-[32px] leading-tight font-bold outline-none">
        <span className="muted font-normal text-lg block">
          {screens[index] && stageOf(screens[index] as Screen)} · {index + 1} of {screens.length}
        </span>
        {screens[index] && <Title screen={screens[index]} bench={bench} />}
      </h1>
      <ol className="card-paper px-4 py-1 mt-2" aria-label="The whole job">
        {screens.map((screen, i) => (
          <BriefRow key={screen.key} {...p} screen={screen} now={i === index} />
        ))}
      </ol>
    </div>
  );
}

function BriefRow({ screen, bench, ticked, now, tick }: Props & { screen: Screen; now: boolean }) {
  const done = screen.steps.every((s) => ticked.has(s.key));
  const stops = unique(screen.steps.flatMap((s) => s.stopIf ?? []));
  const gates = unique(screen.steps.flatMap((s) => s.gate ?? []));
  const { rows } = numbersOf(screen);
  const rest = screen.steps.filter((s) => !ticked.has(s.key));
  const row = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (now) row.current?.scrollIntoView({ block: 'center' });
  }, [now]);
  return (
    <li
      ref={row}
      className={`grid grid-cols-[5rem_minmax(0,1fr)_auto] sm:grid-cols-[8rem_minmax(0,1fr)_auto] gap-x-4 py-2 border-t first:border-t-0 border-base-300 ${now ? 'bg-base-300/50' : ''}`}
      aria-current={now ? 'step' : undefined}
    >
      <span className="muted text-base pt-1">{stageOf(screen)}</span>
      <div className="text-[18px] leading-snug">
        <p className="font-semibold">
          <Title screen={screen} bench={bench} />
        </p>
        {(screen.kind === 'list' || screen.kind === 'one-string') && (
          <p className="text-[17px]">
            {screen.steps.map((s) => (
              <span key={s.key}>
                <Filled text={(screen.kind === 'one-string' ? (s.it ?? s) : s).title} numbers={s.numbers} />{' '}
              </span>
            ))}
          </p>
        )}
        {rows.length > 0 && (
          <p className="tag text-base whitespace-normal">
            {screen.positions.map((n) => {
              const own = screen.steps.filter((s) => s.positions[0] === n);
              const said = rows.flatMap((name) => own.flatMap((s) => s.numbers?.[name] ?? []).slice(0, 1));
              return (
                <span key={n} className="inline-block mr-5">
                  {n} {bench.positions.find((x) => x.number === n)?.note}: {said.map(sayQuantity).join(', ')}
                </span>
              );
            })}
          </p>
        )}
        {checksOf(screen).map(({ check }) => (
          <p key={check.question} className="text-[17px]">
            {check.question}
          </p>
        ))}
        {gates.map((text) => (
          <p key={text} className="text-error text-[17px]">
            Cannot be undone. Only when: {lowerFirst(text)}
          </p>
        ))}
        {stops.length > 0 && <p className="text-error text-[17px]">Stop if: {stops.join(' ')}</p>}
      </div>
      <div>
        {gates.length === 0 && !screen.steps.some((s) => s.note || s.choices) && (
          <Tick done={done} now={now} name={PHASE_NAMES[screen.phase]} tick={() => tick(rest)} />
        )}
        {gates.length > 0 && done && <span className="text-primary font-semibold px-3">✓ done</span>}
      </div>
    </li>
  );
}

/** The phases of the job, with the one in hand. */
export function Phases({ screens, index }: { screens: readonly Screen[]; index: number }) {
  const phases = unique(screens.map(stageOf));
  const now = screens[index] && stageOf(screens[index] as Screen);
  return (
    <ol className="hidden xl:flex gap-3 text-[15px]" aria-label="Phases">
      {phases.map((phase) => (
        <li
          key={phase}
          className={phase === now ? 'font-bold text-primary border-b-2 border-primary' : 'muted'}
          aria-current={phase === now ? 'step' : undefined}
        >
          {phase.toLowerCase()}
        </li>
      ))}
    </ol>
  );
}

/** Asks which, where several are on the screen. */
export function WhichStep({ steps, choose }: { steps: readonly Step[]; choose: (step: Step) => void }) {
  return (
    <div className="grid gap-2">
      {steps.map((s, i) => (
        <button
          key={s.key}
          type="button"
          className="btn justify-start text-left h-auto min-h-14 py-2 text-xl font-normal"
          onClick={() => choose(s)}
        >
          <Key>{String(i + 1)}</Key> {s.check?.question ?? s.title}
        </button>
      ))}
    </div>
  );
}
