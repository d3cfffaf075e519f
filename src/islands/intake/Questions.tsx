import { count } from '../../../core/count';
import type { Meaning, Question } from '../../../core/intake/draft';
import type { IntakeView } from '../../../server/intake/intake';

type Decide = (decision: { word: { key: string; value: string } }) => Promise<void>;

const ABOUT: Record<Question['about'], { title: string; says: string }> = {
  kind: { title: 'Kind of instrument', says: 'You are asked about each word once.' },
  place: { title: 'Places', says: 'New names are added as places.' },
  set: { title: 'Strings fitted', says: 'Names that match no set are kept as a remark.' },
};
const CONFIDENCE = {
  sure: ['chip-ok', 'sure'],
  likely: ['chip-soon', 'likely'],
  unsure: ['chip-late', 'choose'],
} as const;

/** What the words of a list mean, once for each. */
export function Questions({
  view,
  kinds,
  decide,
  busy,
}: {
  view: IntakeView;
  kinds: readonly Meaning[];
  decide: Decide;
  busy: boolean;
}) {
  const groups = (['kind', 'place', 'set'] as const)
    .map((about) => ({ about, all: view.questions.filter((q) => q.about === about) }))
    .filter((g) => g.all.length > 0);
  if (groups.length === 0) return null;
  return (
    <div className="grid gap-3 lg:grid-cols-3 items-start *:min-w-0">
      {groups.map(({ about, all }) => {
        const open = all.filter((q) => q.confidence !== 'sure');
        const sure = all.filter((q) => q.confidence === 'sure');
        return (
          <section key={about} className="card-paper px-4 py-3" aria-label={ABOUT[about].title}>
            <h2 className="font-bold">{ABOUT[about].title}</h2>
            <p className="muted text-sm mb-1">{ABOUT[about].says}</p>
            <ul>
              {open.map((q) => (
                <Word key={q.key} q={q} choices={about === 'kind' ? kinds : q.others} decide={decide} busy={busy} />
              ))}
            </ul>
            {sure.length > 0 && (
              <details open={open.length === 0 && sure.length <= 4}>
                <summary className="cursor-pointer py-1 muted">
                  {count(sure.length, 'word is', 'words are')} understood
                </summary>
                <ul>
                  {sure.map((q) => (
                    <Word key={q.key} q={q} choices={about === 'kind' ? kinds : q.others} decide={decide} busy={busy} />
                  ))}
                </ul>
              </details>
            )}
          </section>
        );
      })}
      {view.moreQuestions > 0 && <p className="muted">{view.moreQuestions} more to come once these are answered.</p>}
    </div>
  );
}

function Word({
  q,
  choices,
  decide,
  busy,
}: {
  q: Question;
  choices: readonly Meaning[];
  decide: Decide;
  busy: boolean;
}) {
  const [chip, says] =
    q.about === 'set' && q.confidence === 'unsure'
      ? (['chip-plain', 'no such set'] as const)
      : CONFIDENCE[q.confidence];
  const answer = q.answer;
  const listed = answer && !choices.some((c) => c.value === answer.value) ? [answer, ...choices] : choices;
  return (
    <li className="quiet-row py-2 flex flex-wrap items-center gap-2">
      <span className="grow min-w-0 break-words">
        <b>“{q.word}”</b> <span className="muted">{count(q.rows, 'row')}</span>
      </span>
      <span className={`chip ${chip}`}>{says}</span>
      <select
        className="select select-sm w-full"
        aria-label={`What “${q.word}” means`}
        value={q.confidence === 'unsure' && q.about === 'kind' ? '' : (answer?.value ?? '')}
        disabled={busy}
        onChange={(e) => void decide({ word: { key: q.key, value: e.target.value } })}
      >
        {q.confidence === 'unsure' && q.about === 'kind' && <option value="">choose a kind</option>}
        {q.about === 'kind' && q.others.length > 0 && (
          <optgroup label="best matches">
            {q.others.map((c) => (
              <option key={`near-${c.value}`} value={c.value}>
                {c.says}
              </option>
            ))}
          </optgroup>
        )}
        {q.about === 'kind' ? (
          <optgroup label="all others">
            {choices
              .filter((c) => !q.others.some((o) => o.value === c.value))
              .map((c) => (
                <option key={c.value} value={c.value}>
                  {c.says}
                </option>
              ))}
          </optgroup>
        ) : (
          listed.map((c) => (
            <option key={c.value} value={c.value}>
              {c.says}
            </option>
          ))
        )}
      </select>
      {q.confidence === 'likely' && answer && (
        <button
          type="button"
          className="btn btn-sm"
          disabled={busy}
          onClick={() => void decide({ word: { key: q.key, value: answer.value } })}
        >
          Yes, {answer.says.length > 24 ? 'that' : answer.says}
        </button>
      )}
    </li>
  );
}
