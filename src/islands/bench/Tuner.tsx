import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Reading } from '../../../core/pitch/estimate';
import { PracticeInstrument } from '../../../core/pitch/practice';
import { VERDICT_WORDS, verdictOf } from '../../../core/pitch/steady';
import { askedFor, beginWalk, type Walk, type WalkGoal, walkOn } from '../../../core/pitch/walk';
import { lowerFirst } from '../../../core/sentence';
import { adviseStretch } from '../../../core/settling/stretch';
import type { BenchView } from '../../../server/bench/page';
import { frameLength, listen, microphone, practiceSource } from './listen';

type TunedString = BenchView['tuned'][number];

interface Props {
  strings: TunedString[];
  /** Rounds the method asks for, while stretching; null in other phases. */
  rounds: number | null;
  /** Drops logged so far by string, in cents flat. */
  drops: ReadonlyMap<number, number[]>;
  log: (number: number, flatCents: number) => void;
  /** The pass through the strings that this step is, led by what is heard; null: none. Each step brings its own. */
  walk: { step: string; goal: WalkGoal; order: readonly number[] } | null;
  /** A string has come to stand where the step wants it; null: all have. */
  arrived: (number: number | null) => void;
  close: () => void;
}

const SPAN_CENTS = 50;
type Hearing = 'off' | 'asking' | 'microphone' | 'practice' | 'refused';

/** Says which string it hears, how far off it is and which way to turn; while stretching, keeps what each pull cost. */
export function Tuner({ strings, rounds, drops, log, walk: wanted, arrived, close }: Props) {
  const [hearing, setHearing] = useState<Hearing>('off');
  const [reading, setReading] = useState<Reading | null>(null);
  const [period, setPeriod] = useState(false);
  const [picked, setPicked] = useState(strings[0]?.number ?? 1);
  const [typed, setTyped] = useState('');
  const stop = useRef<(() => void) | null>(null);
  const pluck = useRef<{ number: number; at: number } | null>(null);
  const targets = useMemo(() => strings.map(({ number, hz }) => ({ number, hz })), [strings]);
  const instrument = useMemo(() => new PracticeInstrument(strings, Math.random), [strings]);
  const heard = strings.find((s) => s.number === reading?.number);
  const [walk, setWalk] = useState<Walk | null>(null);
  useEffect(() => {
    setWalk(wanted && beginWalk(wanted.goal, wanted.order));
  }, [wanted]);
  const hear = useCallback((now: Reading | null) => {
    setReading(now);
    setWalk((w) => w && walkOn(w, now, performance.now()));
  }, []);
  // What has arrived is told once each.
  const told = useRef<{ step: string; numbers: Set<number>; through: boolean } | null>(null);
  useEffect(() => {
    if (!walk || !wanted) return;
    if (told.current?.step !== wanted.step) told.current = { step: wanted.step, numbers: new Set(), through: false };
    const known = told.current;
    for (const n of walk.arrived) {
      if (known.numbers.has(n)) continue;
      known.numbers.add(n);
      arrived(n);
    }
    if (walk.arrived.length === walk.order.length && !known.through) {
      known.through = true;
      arrived(null);
    }
  }, [walk, wanted, arrived]);

  useEffect(() => () => stop.current?.(), []);
  const start = useCallback(
    async (kind: 'microphone' | 'practice') => {
      stop.current?.();
      stop.current = null;
      setReading(null);
      setHearing('asking');
      try {
        const source =
          kind === 'practice'
            ? practiceSource(instrument, () => pluck.current)
            : await microphone(frameLength(targets));
        stop.current = listen(source, targets, hear);
        setHearing(kind);
      } catch {
        setHearing('refused');
      }
    },
    [instrument, targets, hear],
  );

  const shown = reading && (period ? reading.cents + 1200 * Math.log2(reading.periodHz / reading.hz) : reading.cents);
  // Of two strings that it could be, neither is told to be turned.
  const other = reading?.or ? strings.find((s) => s.number === reading.or?.number) : undefined;
  const verdict = reading && shown !== null && !other ? verdictOf({ cents: shown, hz: reading.hz }) : null;
  const tone = verdict === 'in-tune' ? 'text-success' : verdict?.includes('sharp') ? 'text-error' : 'text-warning';
  const at = (n: number) => strings.find((s) => s.number === n);
  const logged = at(rounds === null ? -1 : (reading?.number ?? picked));
  const advice = logged && rounds !== null ? adviseStretch(logged, drops.get(logged.number) ?? [], rounds) : null;
  const button = 'btn min-h-14 text-lg';
  return (
    <section className="card-paper border-primary p-5 mt-4 max-w-5xl" aria-label="Tuner">
      <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1">
        <h2 className="font-bold text-[28px]" aria-live="polite">
          {heard
            ? other
              ? 'Which of two strings?'
              : heard.label
            : hearing === 'off'
              ? 'Tuner'
              : hearing === 'refused'
                ? 'No microphone'
                : 'Pluck a string'}
        </h2>
        {shown !== null && !other && (
          <b className={`text-[34px] tabular-nums ${tone}`} data-cents={shown.toFixed(1)}>
            {shown > 0 ? '+' : shown < 0 ? '−' : ''}
            {Math.abs(shown).toFixed(1)} cents
          </b>
        )}
        {reading && !other && (
          <span className="muted text-lg">
            {reading.hz.toFixed(2)} Hz, ±{Math.max(0.1, 2 * reading.spreadCents).toFixed(1)} cents
          </span>
        )}
        <button type="button" className="btn btn-ghost ml-auto min-h-14" onClick={close}>
          <kbd className="kbd-key text-base">t</kbd> close
        </button>
      </div>
      <Scale cents={other ? null : shown} verdict={verdict} />
      {walk && (hearing === 'microphone' || hearing === 'practice') && <WalkLine walk={walk} strings={strings} />}
      {other && heard && reading?.or ? (
        <p className="text-[22px]">
          This could be {heard.label}, {sayOff(reading.cents)}, or {other.label}, {sayOff(reading.or.cents)}. Damp the
          other strings, then pluck that one again.
        </p>
      ) : verdict && heard ? (
        <p className={`text-[22px] ${tone}`}>
          {VERDICT_WORDS[verdict]}{' '}
          {verdict !== 'in-tune' && <span className="text-base-content">{heard.tightens}</span>}
        </p>
      ) : (
        <p className="muted">
          {hearing === 'refused'
            ? 'No microphone: allow it for this page, or use another tuner and type in how flat each string goes.'
            : hearing === 'off'
              ? 'It listens only while open; no sound leaves this device.'
              : 'Pluck one string and let it ring.'}
        </p>
      )}
      <div className="flex flex-wrap gap-2 mt-3">
        <button
          type="button"
          className={`${button} ${hearing === 'microphone' ? 'btn-primary' : ''}`}
          onClick={() => void start('microphone')}
        >
          Listen
        </button>
        <button
          type="button"
          className={`${button} ${hearing === 'practice' ? 'btn-primary' : ''}`}
          onClick={() => void start('practice')}
        >
          Practice instrument
        </button>
        <label className="flex items-center gap-2 text-lg min-h-14">
          <input type="checkbox" className="checkbox" checked={period} onChange={(e) => setPeriod(e.target.checked)} />
          allow for stiff strings
        </label>
      </div>
      {hearing === 'practice' && (
        <div className="flex flex-wrap items-center gap-2 mt-3">
          {strings.map((s) => (
            <button
              key={s.number}
              type="button"
              className={`${button} ${picked === s.number ? 'border-primary' : ''}`}
              onClick={() => {
                setPicked(s.number);
                pluck.current = { number: s.number, at: performance.now() };
              }}
            >
              Pluck {s.number}
            </button>
          ))}
          {(
            [
              ['−20', () => instrument.turn(picked, -20)],
              ['−3', () => instrument.turn(picked, -3)],
              ['+3', () => instrument.turn(picked, 3)],
              ['+20', () => instrument.turn(picked, 20)],
              ['Stretch it', () => instrument.stretch(picked)],
            ] as const
          ).map(([name, act]) => (
            <button
              key={name}
              type="button"
              className={button}
              onClick={() => {
                act();
                pluck.current = { number: picked, at: performance.now() };
              }}
            >
              {name}
            </button>
          ))}
        </div>
      )}
      {rounds !== null && (
        <div className="mt-4 border-t border-base-300 pt-3">
          <p className="font-semibold">How far each stretch dropped it</p>
          <ul className="flex flex-wrap gap-x-6 gap-y-1 text-lg">
            {strings.map((s) => (
              <li key={s.number}>
                <span className="tag">{s.number}</span>{' '}
                {(drops.get(s.number) ?? []).map((d) => d.toFixed(0)).join(', ') || (
                  <span className="muted">none yet</span>
                )}
              </li>
            ))}
          </ul>
          <div className="flex flex-wrap items-center gap-2 mt-2">
            <button
              type="button"
              className={`${button} btn-primary`}
              disabled={!reading || reading.or !== null || reading.cents > 2}
              onClick={() => reading && log(reading.number, Math.max(0, -reading.cents))}
            >
              Log this drop
            </button>
            <label className="flex items-center gap-2 text-lg">
              or enter it: string
              <select
                className="select min-h-14 w-auto"
                value={picked}
                onChange={(e) => setPicked(Number(e.target.value))}
              >
                {strings.map((s) => (
                  <option key={s.number} value={s.number}>
                    {s.number}
                  </option>
                ))}
              </select>
            </label>
            <label className="flex items-center gap-2 text-lg">
              <input
                className="input min-h-14 w-24"
                inputMode="numeric"
                value={typed}
                onChange={(e) => setTyped(e.target.value)}
                aria-label="Cents flat"
              />
              cents flat
            </label>
            <button
              type="button"
              className={button}
              disabled={!(Number(typed) >= 0 && Number(typed) <= 1200 && typed.trim() !== '')}
              onClick={() => {
                log(picked, Number(typed));
                setTyped('');
              }}
            >
              Log it
            </button>
          </div>
          {advice && logged && (
            <p
              className={`mt-2 text-[22px] ${advice.kind === 'slipping' || advice.kind === 'too-hard' ? 'text-error' : ''}`}
              role="status"
            >
              String {logged.number}: {lowerFirst(advice.says)}
            </p>
          )}
        </div>
      )}
    </section>
  );
}

/** Which string is asked for, large enough to be read from where the hands are, and which have arrived. */
function WalkLine({ walk, strings }: { walk: Walk; strings: readonly TunedString[] }) {
  const now = strings.find((s) => s.number === askedFor(walk));
  const where = walk.goal === 'near' ? 'near pitch' : 'in tune';
  return (
    <div className="my-2" role="status" aria-label="Hands-free tuning">
      <p className={`text-[44px] leading-tight font-bold ${now ? '' : 'text-success'}`}>
        {now ? now.label : `All ${where}: press space`}
      </p>
      <ol className="flex flex-wrap gap-x-5 text-xl">
        {walk.order.map((n) => {
          const there = walk.arrived.includes(n);
          const note = strings.find((s) => s.number === n)?.label.split(' ')[0];
          return (
            <li key={n} className={there ? 'text-success font-semibold' : 'muted'}>
              {note} {there ? '✓' : '·'}
            </li>
          );
        })}
        {walk.passes > 1 && <li className="muted">{walk.pass === 1 ? 'first time round' : 'second time round'}</li>}
      </ol>
    </div>
  );
}

/** How far off in words: "in tune", "20 cents flat". */
const sayOff = (cents: number): string =>
  Math.abs(cents) < 5 ? 'in tune' : `${Math.abs(cents).toFixed(0)} cents ${cents < 0 ? 'flat' : 'sharp'}`;

/** Cents from −50 to +50; the middle is the note. Form as well as colour says which side it is. */
function Scale({ cents, verdict }: { cents: number | null; verdict: string | null }) {
  const x = (c: number) => 300 + (Math.max(-SPAN_CENTS, Math.min(SPAN_CENTS, c)) / SPAN_CENTS) * 280;
  return (
    <svg viewBox="0 0 600 74" className="w-full max-w-[900px]" aria-hidden="true">
      <path d="M20 44H580" className="stroke-base-300" strokeWidth={3} />
      {[-50, -40, -30, -20, -10, 0, 10, 20, 30, 40, 50].map((c) => (
        <g key={c}>
          <path
            d={`M${x(c)} ${c === 0 ? 22 : 36}V${c === 0 ? 66 : 52}`}
            className={c === 0 ? 'stroke-base-content' : 'stroke-secondary'}
            strokeWidth={c === 0 ? 3 : 1.5}
          />
          {c % 50 === 0 && (
            <text x={x(c)} y={16} textAnchor="middle" className="fill-current text-[14px]">
              {c === 0 ? 'note' : c}
            </text>
          )}
        </g>
      ))}
      {cents !== null && (
        <path
          d={
            verdict === 'in-tune'
              ? `M${x(cents) - 9} 44a9 9 0 1 0 18 0a9 9 0 1 0 -18 0`
              : cents < 0
                ? `M${x(cents) - 12} 32L${x(cents) + 8} 44L${x(cents) - 12} 56Z`
                : `M${x(cents) + 12} 32L${x(cents) - 8} 44L${x(cents) + 12} 56Z`
          }
          className={
            verdict === 'in-tune' ? 'fill-success' : verdict?.includes('sharp') ? 'fill-error' : 'fill-warning'
          }
        />
      )}
    </svg>
  );
}
