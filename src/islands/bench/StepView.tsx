import { isLocking } from '../../../core/parts/tuners';
import { CAUTIONS, type CautionId } from '../../../core/procedures/cautions';
import type { StringProgress } from '../../../core/procedures/progress';
import { sayQuantity } from '../../../core/procedures/quantities';
import { type Method, PHASE_NAMES, type Step } from '../../../core/procedures/types';
import { turnsOver } from '../../../core/procedures/winds';
import { postWord } from '../../../core/procedures/words';
import type { StripString } from '../../../core/wear/strip';
import { tightens } from '../../../core/winding/post';
import type { BenchPosition, BenchView } from '../../../server/bench/page';
import { PostDrawing } from '../../components/drawings/PostDrawing';
import { TailDrawing } from '../../components/drawings/TailDrawing';
import { Filled } from '../../components/Filled';
import { StringStrip } from '../../components/StringStrip';
import { stripGeometry } from '../../components/strip';
import { Key } from './Key';

const lowerFirst = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);

export function BenchStrip({
  strip,
  positions,
  progress,
  now,
}: {
  strip: StripString[];
  positions: BenchPosition[];
  progress: Map<number, StringProgress>;
  now: number[];
}) {
  const height = Math.min(150, Math.max(74, positions.length * 21));
  const courses = positions.map((p) => p.course);
  const lines = stripGeometry(strip, 1000, height, courses).lines;
  const single = now.length === 1;
  const words: Record<StringProgress, string> = { old: '', off: 'off', on: 'on' };
  const tone = (n: number) => (single && now.includes(n) ? 'font-bold text-warning' : 'muted');
  const column = (width: string, text: (p: BenchPosition) => string, hidden: boolean) => (
    <ol
      className={`text-base leading-none relative shrink-0 ${width}`}
      style={{ height }}
      aria-hidden={hidden}
      aria-label={hidden ? undefined : 'Strings'}
    >
      {positions.map((p, i) => (
        <li
          key={p.number}
          className={`absolute -translate-y-1/2 whitespace-nowrap ${tone(p.number)}`}
          style={{ top: lines[i]?.y }}
        >
          {text(p)}
        </li>
      ))}
    </ol>
  );
  return (
    <div className="flex items-stretch gap-3 max-w-[1180px]">
      {column('w-14 tag', (p) => `${p.number} ${p.note}`, false)}
      <div className="grow min-w-0 overflow-hidden" style={{ height }}>
        <StringStrip strings={strip} width={1000} height={height} courses={courses} lit={single ? now : []} stretch />
      </div>
      {column('w-12', (p) => (single && now.includes(p.number) ? 'now' : words[progress.get(p.number) ?? 'old']), true)}
    </div>
  );
}

export function StepView({
  step,
  next,
  cautions,
  heading,
  bench,
  method,
  count,
  choose,
  compact,
}: {
  step: Step;
  /** What comes after it. */
  next: React.ReactNode;
  cautions: readonly CautionId[];
  heading: React.RefObject<HTMLHeadingElement | null>;
  bench: BenchView;
  method: Method | undefined;
  count: string;
  choose: (answer: number) => void;
  /** Only what has to be seen beside the tuner. */
  compact: boolean;
}) {
  const only = step.positions.length === 1 ? bench.positions.find((p) => p.number === step.positions[0]) : undefined;
  const shown = Object.entries(step.numbers ?? {}).filter(([name]) => name !== 'count' && name !== 'pull');
  const winds = step.numbers?.winds;
  const product = bench.choices.find((c) => c.id === only?.houseProductId);
  return (
    <div className="grid gap-x-8 lg:grid-cols-[1fr_330px] mt-4 grow content-start">
      <section>
        <p className="muted text-lg">
          {PHASE_NAMES[step.phase]}
          {only ? `, string ${only.number} ${only.note}, ${only.lies} side` : ''} · step {count}
        </p>
        <h1
          ref={heading}
          tabIndex={-1}
          className={`text-[30px] ${compact ? 'sm:text-[32px] max-w-[34em]' : 'sm:text-[42px] max-w-[24em]'} leading-tight font-bold mt-1 outline-none`}
        >
          <Filled text={step.title} numbers={step.numbers} />
        </h1>
        {step.detail && (
          <p className="mt-3 text-[24px] leading-snug max-w-[34em]">
            <Filled text={step.detail} numbers={step.numbers} />
          </p>
        )}
        <div className={`flex flex-wrap gap-3 mt-4 ${compact ? 'hidden' : ''}`}>
          {shown.map(([name, q]) => (
            <div key={name} className="card-paper px-4 py-2 min-w-36">
              <span className="muted text-base block">{q.label}</span>
              <b className="text-[28px]">{name === 'stack' ? q.value.toFixed(q.digits) : sayQuantity(q)}</b>
              {name === 'stack' && <span className="muted"> of {q.to?.toFixed(1)} mm</span>}
            </div>
          ))}
          {step.notYet && (
            <div className="card-paper border-accent px-4 py-2">
              <span className="muted text-base block">Not yet</span>
              {step.notYet}
            </div>
          )}
          {!step.undoable && (
            <div className="card-paper border-error px-4 py-2">
              <span className="muted text-base block">Careful</span>
              Cannot be undone{step.gate ? `. Only if: ${lowerFirst(step.gate)}` : ''}
            </div>
          )}
        </div>
        {step.check && (
          <div className="mt-4 border-l-4 border-primary pl-4">
            <p className="font-bold text-[26px]">{step.check.question}</p>
            <p className="muted">{step.check.good}</p>
          </div>
        )}
        {step.choices && (
          <div className="flex flex-wrap gap-3 mt-4">
            {step.choices.map((text, i) => (
              <button key={text} type="button" className="btn min-h-14 text-xl" onClick={() => choose(i)}>
                <Key>{String(i + 1)}</Key> {text}
              </button>
            ))}
          </div>
        )}
        {step.stopIf && (
          <div className="mt-4 card-paper border-error px-4 py-2 max-w-[44em]">
            <span className="font-bold text-error text-base block">Stop if</span>
            <ul className="text-lg">
              {step.stopIf.map((line) => (
                <li key={line}>{line}</li>
              ))}
            </ul>
          </div>
        )}
        {cautions.map((id) => (
          <p key={id} className="mt-3 text-lg text-warning flex gap-2 max-w-[44em]">
            <span aria-hidden="true" className="font-bold">
              △
            </span>{' '}
            {CAUTIONS[id]}
          </p>
        ))}
        {next && !compact && <p className="muted text-lg mt-4 max-w-[40em]">next: {next}</p>}
      </section>
      {step.drawing && !compact && (
        <div className="grid place-items-center" aria-hidden={undefined}>
          {step.drawing === 'post' && winds && method ? (
            <PostDrawing
              kind={postWord(bench.build)}
              turns={winds.value}
              gaugeMm={product?.gaugeMm ?? 0.8}
              diameterMm={bench.build.post.diameterMm}
              over={turnsOver(method, product?.wound ?? true)}
              selfLock={method.winds === 'self-lock'}
              locking={isLocking(bench.build)}
              slotted={bench.build.tuner === 'slotted-post'}
              rotation={only ? tightens(bench.build.head, only.side, bench.build.handedness) : 'over-the-top'}
              stackMm={winds.value * (product?.gaugeMm ?? 0.8)}
              roomMm={bench.build.post.roomUnderHoleMm}
              away={step.numbers?.away?.value ?? 0}
            />
          ) : step.drawing === 'tail' ? (
            <TailDrawing
              tailEnd={bench.build.tailEnd}
              stringEnd={bench.build.stringEnd}
              turns={step.numbers?.turns?.value ?? 2}
            />
          ) : null}
        </div>
      )}
    </div>
  );
}
