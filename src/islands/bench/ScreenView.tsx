import { countWord, sayList } from '../../../core/count';
import { CAUTIONS } from '../../../core/procedures/cautions';
import { cautionsAt, numbersOf, type Screen, wordsOf } from '../../../core/procedures/led';
import { sayQuantity } from '../../../core/procedures/quantities';
import { StringStrip } from '../../components/StringStrip';
import { ScreenDrawing } from './ScreenDrawing';
import { StepRows, StringRows } from './ScreenRows';
import { checksOf, lowerFirst, type ScreenProps, stageOf, unique } from './screen';
import { Sentence, Title } from './Title';

/** Several strings, or several short steps, on one screen: the technique once, a row for each with its numbers and tick. */
export function ScreenView(p: ScreenProps) {
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
              Cannot be undone. Only if: {lowerFirst(text)}
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
            <p className="muted text-base">Highlighted: {where}</p>
          </div>
        )}
        {!p.compact && <ScreenDrawing {...p} screen={screen} />}
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
