import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { INTAKE_FILTERS } from '../../../contract/intake';
import { count, plural } from '../../../core/count';
import { FAMILIES, SIZES } from '../../../core/instruments/build';
import { SUBJECT_NAMES, SUBJECTS } from '../../../core/intake/columns';
import { DAY_STYLE_NAMES, DAY_STYLES } from '../../../core/intake/days';
import { sayKind } from '../../../core/intake/kinds';
import type { IntakeView } from '../../../server/intake/intake';
import type { Asked } from '../../ui/commands';
import { Field } from '../../ui/Field';
import { LONG_WORK_MS } from '../../ui/post';
import { Told } from '../../ui/Told';
import { useCommand } from '../../ui/useCommand';
import { Questions } from './Questions';
import { Rows } from './Rows';
import { sayFound, sayMade } from './words';

type Show = (typeof INTAKE_FILTERS)[number];
type Decision = Omit<Asked<`/api/intake/${number}/decide`>, 'expectedVersion'>;

/** All kinds there are, for whoever knows better than the words. */
const KINDS = FAMILIES.flatMap((family) =>
  (['right', 'left'] as const).flatMap((handedness) =>
    SIZES[family].map((size) => ({
      value: `${family}/${handedness}/${size}`,
      says: sayKind({ family, size, handedness }),
    })),
  ),
);

/** A list that came: what it would do, what has to be asked, and taking it over or back. */
export function ImportApp({ first }: { first: IntakeView }) {
  const [view, setView] = useState(first);
  const [show, setShow] = useState<Show>('all');
  const [progress, setProgress] = useState<{ done: number; of: number } | null>(null);
  const decideCommand = useCommand();
  const command = useCommand();
  const stopping = useCommand();
  const version = useRef(first.version);
  const asked = useRef(0);
  const load = useCallback(
    async (next: Show, from = 0) => {
      asked.current += 1;
      const mine = asked.current;
      const answer = await fetch(`/api/intake/${first.id}?show=${next}&from=${from}`).catch(() => null);
      if (!answer?.ok) return;
      const fresh = (await answer.json()) as IntakeView;
      version.current = Math.max(version.current, fresh.version);
      // An older answer that comes later does not cover a newer one.
      if (mine !== asked.current) return;
      setView((was) => (from > 0 ? { ...fresh, rows: [...was.rows, ...fresh.rows] } : fresh));
    },
    [first.id],
  );
  // One after another: a press while the last one is still being read back stands on what that one made.
  const queue = useRef<Promise<void>>(Promise.resolve());
  const decide = useCallback(
    (decision: Decision) => {
      queue.current = queue.current.then(async () => {
        const expectedVersion = version.current;
        await decideCommand.run(`/api/intake/${first.id}/decide`, { ...decision, expectedVersion });
        // Refused or not, it is shown as it stands.
        await load(show);
      });
      return queue.current;
    },
    [decideCommand, first.id, load, show],
  );
  const choose = (next: Show) => {
    setShow(next);
    void load(next);
  };
  const watching = useRef(0);
  useEffect(() => () => window.clearInterval(watching.current), []);
  const takeOver = async () => {
    setProgress({ done: 0, of: 0 });
    watching.current = window.setInterval(async () => {
      const answer = await fetch(`/api/intake/${first.id}?progress`).catch(() => null);
      const now = answer?.ok ? ((await answer.json()) as { done: number; of: number } | null) : null;
      if (now) setProgress(now);
    }, 700);
    await queue.current;
    const expectedVersion = version.current;
    await command.run(`/api/intake/${first.id}/apply`, { expectedVersion }, { patienceMs: LONG_WORK_MS });
    window.clearInterval(watching.current);
    setProgress(null);
    await load(show);
  };
  const open = view.status === 'open';
  const { counts } = view;
  const takes = counts.add + counts.change;
  const kinds = useMemo(() => KINDS, []);
  const noun = {
    instruments: 'instrument',
    people: 'person',
    places: 'place',
    changes: 'string change',
    strings: 'product',
    shelf: 'stock line',
    loans: 'loan',
  }[view.subject];
  const nouns = { people: 'people', shelf: 'stock lines' }[view.subject as string];
  const headline = !open
    ? view.status === 'applied'
      ? `${view.fileName} imported: ${sayMade(view.made)}`
      : `${view.fileName}: import undone`
    : view.lacking.length > 0
      ? `Which column is the ${view.lacking.join(' and the ').toLowerCase()}?`
      : takes === 0 && counts.problem === 0
        ? `Nothing new in ${view.fileName}`
        : `${view.fileName}: ${count(takes, noun, nouns)} ${plural(takes, 'is', 'are')} ready${counts.problem > 0 ? `, ${count(counts.problem, 'needs', 'need')} sorting out` : ''}`;
  return (
    <div className="grid gap-4">
      <div>
        <h1 className="text-2xl font-bold">{headline}</h1>
        <p className="muted">
          {sayFound(view)}{' '}
          {open
            ? 'Nothing changes until you press Import. You can undo the whole import afterwards.'
            : view.status === 'applied'
              ? 'You can undo the whole import until something else depends on it.'
              : 'Everything is as it was before. Choose the file again to import it.'}
        </p>
      </div>
      {open && (
        <div className="flex flex-wrap items-center gap-3">
          <button
            type="button"
            className="btn btn-primary"
            disabled={progress !== null || takes === 0 || view.lacking.length > 0}
            onClick={() => void takeOver()}
          >
            {counts.problem > 0 ? `Import ${takes}, leave ${counts.problem} for later` : `Import ${takes}`}
          </button>
          {progress && (
            <>
              <progress
                className="progress progress-primary w-48"
                value={progress.done}
                max={Math.max(1, progress.of)}
                aria-label="Imported so far"
              />
              <span role="status">{progress.of > 0 ? `${progress.done} of ${progress.of}` : 'starting…'}</span>
              <button
                type="button"
                className="btn btn-sm"
                onClick={() => void stopping.run(`/api/intake/${view.id}/stop`, {})}
              >
                Stop, import nothing
              </button>
            </>
          )}
          {!progress && (
            <button
              type="button"
              className="btn"
              onClick={async () => {
                const done = await command.run(`/api/intake/${view.id}/drop`, { expectedVersion: view.version });
                if (done) location.assign(done.location);
              }}
            >
              Discard this list
            </button>
          )}
        </div>
      )}
      <Told says={command.says} />
      {view.others.length > 0 && (
        <p className="flex flex-wrap gap-x-4">
          <span className="muted">From the same file:</span>
          {view.others.map((o) => (
            <a key={o.id} className="link" href={`/programme/import/${o.id}`}>
              {o.sheet}: {count(o.rows, 'row')} {o.status === 'open' ? plural(o.rows, 'waits', 'wait') : 'done'}
            </a>
          ))}
        </p>
      )}
      {open && (
        <div className="flex flex-wrap gap-4 items-end">
          <Field label="This list contains" large>
            <select
              className="select"
              value={view.subject}
              disabled={decideCommand.busy}
              onChange={(e) => void decide({ subject: e.target.value as IntakeView['subject'] })}
            >
              {SUBJECTS.map((s) => (
                <option key={s} value={s}>
                  {SUBJECT_NAMES[s]}
                </option>
              ))}
            </select>
          </Field>
          {view.fields.some((f) => f === 'on' || f === 'from' || f === 'to') && (
            <label className="grid gap-1">
              <span>
                Date format{' '}
                {!view.dayStyleSure && <span className="text-warning">both orders are possible: check</span>}
              </span>
              <select
                className="select"
                value={view.dayStyle}
                disabled={decideCommand.busy}
                onChange={(e) => void decide({ dayStyle: e.target.value as IntakeView['dayStyle'] })}
              >
                {DAY_STYLES.map((s) => (
                  <option key={s} value={s}>
                    {DAY_STYLE_NAMES[s]}
                  </option>
                ))}
              </select>
            </label>
          )}
        </div>
      )}
      {open && <Questions view={view} kinds={kinds} decide={decide} busy={decideCommand.busy} />}
      {open && view.subject === 'instruments' && counts.add > 0 && (
        <section className="card-paper px-4 py-3 grid gap-2" aria-labelledby="unsaid">
          <h2 id="unsaid" className="font-bold">
            Missing from the list
          </h2>
          {view.unknownAge > 0 && (
            <label className="flex flex-wrap items-center gap-2">
              <span>
                {count(view.unknownAge, 'instrument has', 'instruments have')} no date for the last strings: to be
                inspected first,
              </span>
              <select
                className="select select-sm w-auto"
                value={view.spreadWeeks}
                onChange={(e) => void decide({ spreadWeeks: Number(e.target.value) })}
              >
                <option value={0}>all at once</option>
                {[2, 4, 6, 8, 12].map((w) => (
                  <option key={w} value={w}>
                    spread over {count(w, 'week')}
                  </option>
                ))}
              </select>
              <span className="muted">the most played first</span>
            </label>
          )}
          {view.unstrung > 0 && (
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                className="checkbox"
                checked={view.usualSets}
                onChange={(e) => void decide({ usualSets: e.target.checked })}
              />
              Give {count(view.unstrung, 'instrument')} the usual set for {plural(view.unstrung, 'its', 'their')} kind;
              a set not yet in Stock is added for you to rename
            </label>
          )}
        </section>
      )}
      {view.status === 'applied' && (
        <div className="flex flex-wrap items-center gap-3">
          <a className="btn btn-primary" href="/programme">
            Continue
          </a>
          <button
            type="button"
            className="btn"
            disabled={command.busy}
            onClick={async () => {
              await command.run(
                `/api/intake/${view.id}/undo`,
                { expectedVersion: view.version },
                { patienceMs: LONG_WORK_MS },
              );
              await load(show);
            }}
          >
            Undo the import
          </button>
        </div>
      )}
      <Told says={decideCommand.says} />
      {open && (
        <>
          <fieldset className="flex flex-wrap gap-2" aria-label="Rows shown">
            {(
              [
                ['all', `all ${count(counts.add + counts.change + counts.same + counts.out + counts.problem, 'row')}`],
                ['problem', `${counts.problem} to sort out`],
                ['change', `${counts.change} with changes`],
                ['remark', `${view.remarks} with remarks`],
                ['out', `${counts.same + counts.out} not imported`],
              ] as const
            ).map(([key, says]) => (
              <button
                key={key}
                type="button"
                className={`btn btn-sm ${show === key ? 'btn-primary' : ''}`}
                aria-pressed={show === key}
                onClick={() => choose(key)}
              >
                {says}
              </button>
            ))}
          </fieldset>
          <Rows view={view} decide={decide} busy={decideCommand.busy} />
          {view.from + view.rows.length < view.shown && view.rows.length < view.shown && (
            <button type="button" className="btn justify-self-start" onClick={() => void load(show, view.rows.length)}>
              Show the next {Math.min(100, view.shown - view.rows.length)}
            </button>
          )}
        </>
      )}
    </div>
  );
}
