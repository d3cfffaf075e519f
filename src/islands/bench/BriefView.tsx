import { useEffect, useRef } from 'react';
import { numbersOf, type Screen } from '../../../core/procedures/led';
import { sayQuantity } from '../../../core/procedures/quantities';
import { PHASE_NAMES } from '../../../core/procedures/types';
import { Filled } from '../../components/Filled';
import { Tick } from './ScreenRows';
import { checksOf, lowerFirst, type ScreenProps, stageOf, unique } from './screen';
import { Title } from './Title';

/** The whole job on one page: what each screen says, with its numbers, gates and what stops it; the one in hand is lit. */
export function BriefView(p: ScreenProps) {
  const { screens, index, bench } = p;
  return (
    <div className="max-w-[1180px] mt-3 min-w-0">
      <h1 ref={p.heading} tabIndex={-1} className="text-[26px] sm:text-[32px] leading-tight font-bold outline-none">
        <span className="muted font-normal text-lg block">
          {screens[index] && stageOf(screens[index] as Screen)} · {index + 1} of {screens.length}
        </span>
        {screens[index] && <Title screen={screens[index]} bench={bench} />}
      </h1>
      <ol className="card-paper px-4 py-1 mt-2" aria-label="All steps">
        {screens.map((screen, i) => (
          <BriefRow key={screen.key} {...p} screen={screen} now={i === index} />
        ))}
      </ol>
    </div>
  );
}

function BriefRow({ screen, bench, ticked, now, tick }: ScreenProps & { screen: Screen; now: boolean }) {
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
            Cannot be undone. Only if: {lowerFirst(text)}
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
