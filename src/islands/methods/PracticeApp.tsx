import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { FAMILY_NAMES, type Family } from '../../../core/instruments/build';
import { CAUTIONS } from '../../../core/procedures/cautions';
import { cautionsAt, numbersOf, readOut, wordsOf } from '../../../core/procedures/led';
import { isPractised, type PracticeScreen } from '../../../core/procedures/practice';
import { sayQuantity } from '../../../core/procedures/quantities';
import { PHASE_NAMES } from '../../../core/procedures/types';
import type { BenchView } from '../../../server/bench/page';
import { later } from '../../ui/later';
import { Told } from '../../ui/Told';
import { useCommand } from '../../ui/useCommand';
import { useHotKeys } from '../../ui/useHotKeys';
import { Key } from '../bench/Key';

const Tuner = later(() => import('../bench/Tuner').then((m) => m.Tuner), 'Loading…');

interface Props {
  family: Family;
  /** The tag, or what kind of instrument it is. */
  name: string;
  me: string;
  screens: PracticeScreen[];
  strings: { number: number; note: string; wound: boolean }[];
  tuned: BenchView['tuned'];
  /** Rounds of stretching that the method asks for. */
  rounds: number;
}

const SOUNDS = ['near-pitch', 'stretch', 'tune'];
const NOTHING: ReadonlyMap<number, number[]> = new Map();

/** A card to be practised: it asks before it tells, and plays the practice instrument where strings are tuned. */
export function PracticeApp({ family, name, me, screens, strings, tuned, rounds }: Props) {
  const [index, setIndex] = useState(0);
  /** What was chosen on each screen, by its place. */
  const [chosen, setChosen] = useState<Record<number, number>>({});
  const [tuner, setTuner] = useState(false);
  const [drops, setDrops] = useState<ReadonlyMap<number, number[]>>(NOTHING);
  const [ready, setReady] = useState(false);
  const heading = useRef<HTMLHeadingElement>(null);
  const { run, busy, says } = useCommand();
  const [counts, setCounts] = useState<boolean | null>(null);
  useEffect(() => setReady(true), []);
  const at = screens[index];
  const question = at?.question ?? null;
  const answer = chosen[index];
  const told = question === null || answer !== undefined;
  const asked = screens.filter((s) => s.question !== null).length;
  const right = screens.filter((s, i) => s.question && chosen[i] === s.question.right).length;
  const choose = useCallback(
    (option: number) => {
      if (question && option < question.options.length)
        setChosen((was) => (was[index] === undefined ? { ...was, [index]: option } : was));
    },
    [question, index],
  );
  const on = useCallback(() => {
    if (!told) return;
    setTuner(false);
    setIndex((i) => Math.min(screens.length, i + 1));
  }, [told, screens.length]);
  useHotKeys({
    '([1-9])': (digit) => (told ? false : choose(Number(digit) - 1)),
    Space: on,
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: the heading of each new screen is what is read next
  useEffect(() => heading.current?.focus(), [index]);

  const walk = useMemo(
    () =>
      at && SOUNDS.includes(at.screen.phase)
        ? {
            step: String(index),
            goal: at.screen.phase === 'tune' ? ('tune' as const) : ('near' as const),
            order: tuned.map((t) => t.number),
          }
        : null,
    [at, index, tuned],
  );

  if (!at)
    return (
      <section className="mt-4 grid gap-4 max-w-3xl" data-ready={ready}>
        <h1 ref={heading} tabIndex={-1} className="text-2xl font-bold outline-none">
          {right} of {asked} right the first time
        </h1>
        <p>
          {isPractised({ asked, right })
            ? `That counts as practice in ${me}’s progress, for ${FAMILY_NAMES[family].toLowerCase()}, once you save it.`
            : 'Go through it again and check the ones you missed: it counts when four out of five are right the first time.'}
        </p>
        <ul className="card-paper px-4 py-1">
          {screens.flatMap((s, i) =>
            s.question && chosen[i] !== s.question.right
              ? [
                  <li key={s.question.asks} className="quiet-row py-2">
                    {s.question.asks} <b>{s.question.options[s.question.right]}</b>
                  </li>,
                ]
              : [],
          )}
        </ul>
        <Told says={says} />
        <div className="flex flex-wrap gap-3">
          {counts === null ? (
            <button
              type="button"
              className="btn btn-primary"
              disabled={busy}
              onClick={async () => {
                const kept = await run('/api/people/practised', { family, asked, right });
                if (kept) setCounts(kept.counts);
              }}
            >
              Save it for {me}
            </button>
          ) : (
            <p role="status" className="self-center">
              {counts
                ? 'Saved: it counts towards your progress.'
                : 'Saved. It does not count towards your progress yet.'}
            </p>
          )}
          <button type="button" className="btn" onClick={() => location.reload()}>
            Again, in a different order
          </button>
        </div>
      </section>
    );

  const words = wordsOf(at.screen);
  const numbers = numbersOf(at.screen);
  const cautions = cautionsAt(
    screens.map((s) => s.screen),
    index,
  );
  return (
    <section className="mt-3 grid gap-4 max-w-5xl" data-ready={ready} aria-label={`Practice on ${name}`}>
      <p className="muted">
        {PHASE_NAMES[at.screen.phase]} · {index + 1} of {screens.length} · {right} right so far
      </p>
      {question && (
        <div>
          <h1 ref={heading} tabIndex={-1} className="text-[28px] leading-tight font-bold outline-none max-w-[34em]">
            {question.asks}
          </h1>
          <ol className="grid gap-2 mt-3 max-w-3xl">
            {question.options.map((option, i) => {
              const isRight = answer !== undefined && i === question.right;
              const isWrong = answer === i && i !== question.right;
              return (
                <li key={option}>
                  {told ? (
                    <p
                      className={`card-paper px-4 py-3 text-lg ${isRight ? 'border-primary border-2 font-semibold' : ''} ${isWrong ? 'border-error border-2' : ''} ${isRight || isWrong ? '' : 'muted'}`}
                    >
                      {option}
                      {isRight && <b className="text-success"> · right</b>}
                      {isWrong && <b className="text-error"> · not here</b>}
                    </p>
                  ) : (
                    <button
                      type="button"
                      className="btn h-auto min-h-14 w-full justify-start text-left text-lg font-normal py-2"
                      onClick={() => choose(i)}
                    >
                      <Key>{String(i + 1)}</Key>
                      {option}
                    </button>
                  )}
                </li>
              );
            })}
          </ol>
        </div>
      )}
      {told && (
        <div aria-live="polite" className="border-l-4 border-primary pl-4 grid gap-2">
          {question ? (
            <p className="text-xl font-semibold">{readOut(words.title, strings)}</p>
          ) : (
            <h1 ref={heading} tabIndex={-1} className="text-[28px] leading-tight font-bold outline-none">
              {readOut(words.title, strings)}
            </h1>
          )}
          {words.detail.length > 0 && <p className="text-lg">{readOut(words.detail, strings)}</p>}
          {Object.keys(numbers.same).length > 0 && (
            <p>
              {Object.entries(numbers.same)
                .map(([key, q]) => `${numbers.label[key]}: ${sayQuantity(q)}`)
                .join(' · ')}
            </p>
          )}
          {numbers.rows.map((key) => (
            <p key={key}>
              {numbers.label[key]}:{' '}
              {at.screen.steps
                .flatMap((s) => {
                  const q = s.numbers?.[key];
                  const of = strings.find((x) => x.number === s.positions[0]);
                  return q && of ? [`${of.note} ${sayQuantity(q)}`] : [];
                })
                .join(' · ')}
            </p>
          ))}
          {cautions.map((c) => (
            <p key={c} className="text-warning">
              △ {CAUTIONS[c]}
            </p>
          ))}
        </div>
      )}
      {told && walk && (
        <div>
          {tuner ? (
            <Tuner
              strings={tuned}
              rounds={at.screen.phase === 'stretch' ? rounds : null}
              drops={drops}
              log={(number, flat) => setDrops(new Map([...drops, [number, [...(drops.get(number) ?? []), flat]]]))}
              walk={walk}
              arrived={() => {}}
              close={() => setTuner(false)}
            />
          ) : (
            <button type="button" className="btn" onClick={() => setTuner(true)}>
              Try it on the practice instrument
            </button>
          )}
        </div>
      )}
      <div className="flex flex-wrap gap-3">
        <button type="button" className="btn btn-primary min-h-14 text-lg" disabled={!told} onClick={on}>
          {index === screens.length - 1 ? 'Finish' : 'Next'}
        </button>
        {told && (
          <span className="muted self-center">
            or <Key>space</Key>
          </span>
        )}
        {index > 0 && (
          <button type="button" className="btn btn-ghost min-h-14 text-lg" onClick={() => setIndex(index - 1)}>
            Back
          </button>
        )}
      </div>
    </section>
  );
}
