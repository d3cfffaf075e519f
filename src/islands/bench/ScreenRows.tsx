import { sayGauge } from '../../../core/manner';
import { numbersOf, type Screen } from '../../../core/procedures/led';
import { sayQuantity } from '../../../core/procedures/quantities';
import { tightens } from '../../../core/winding/post';
import type { BenchPosition } from '../../../server/bench/page';
import { Filled } from '../../components/Filled';

import { lowerFirst, type ScreenProps } from './screen';

export function StringRows({ screen, bench, ticked, tick }: ScreenProps & { screen: Screen }) {
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
                to tighten
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

export function Tick({ done, now, name, tick }: { done: boolean; now: boolean; name: string; tick: () => void }) {
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

export function StepRows({ screens, index, screen, ticked, tick, compact }: ScreenProps & { screen: Screen }) {
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
