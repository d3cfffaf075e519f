import { GATE_REASONS } from '../../../core/procedures/gate';
import { isRedone, MISTAKES, type MistakeId, stopsFor } from '../../../core/procedures/mistakes';
import { fillText, sayQuantity } from '../../../core/procedures/quantities';
import type { Step } from '../../../core/procedures/types';
import type { Loss } from '../../../server/bench/losses';
import type { BenchPosition } from '../../../server/bench/page';
import { Key } from './Key';
import { WhichStep } from './WhichStep';

export type Panel =
  | { kind: 'none' }
  | { kind: 'mistakes' }
  | { kind: 'which'; id: MistakeId }
  | { kind: 'recovery'; id: MistakeId }
  | { kind: 'why' }
  | { kind: 'skip' }
  | { kind: 'no'; steps: readonly Step[] }
  | { kind: 'gate' }
  | { kind: 'depart' }
  | { kind: 'help' };

/** What became of the spare of a string that was lost. */
function LossLine({ loss }: { loss: Loss }) {
  if (!loss.from)
    return (
      <p className="text-error font-semibold">
        Stock shows no other {loss.name}. Check the shelf; add any you find when you finish.
      </p>
    );
  return (
    <p className="font-semibold">
      Take another {loss.name} from {loss.from}. It is already taken off stock.
      {loss.opened &&
        ` You open one ${loss.opened}${loss.left ? `; its other ${loss.left === 1 ? 'string goes' : `${loss.left} strings go`} into stock, loose` : ''}.`}
    </p>
  );
}

/** What is asked or explained beside a step. */
export function PanelView({
  panel,
  steps,
  mistakes,
  locked,
  strings,
  loss,
  override,
  confirmGate,
  log,
  skips,
  skip,
  noTo,
  close,
}: {
  panel: Panel;
  /** What the screen is about. */
  steps: readonly Step[];
  mistakes: MistakeId[];
  locked: string[];
  /** The strings the step works on. */
  strings: readonly BenchPosition[];
  loss: Loss | null;
  override: (because: string) => void;
  /** Says that what cannot be undone is done. */
  confirmGate: () => void;
  log: (id: MistakeId, number?: number) => void;
  /** What may be skipped, and why. */
  skips: readonly { step: Step; because: string }[];
  skip: (step: Step, because: string) => void;
  noTo: (step: Step) => void;
  close: () => void;
}) {
  if (panel.kind === 'none') return null;
  const choice = 'btn justify-start text-left h-auto min-h-14 py-2 text-xl font-normal';
  return (
    <section className="card-paper border-primary p-5 mt-4 max-w-4xl" aria-label={panel.kind}>
      {panel.kind === 'mistakes' && (
        <>
          <h2 className="font-bold mb-2">What went wrong?</h2>
          {mistakes.length === 0 && <p>No common problem at this step. Go back a step, or note it when you finish.</p>}
          <div className="grid gap-2">
            {mistakes.map((id, i) => (
              <button key={id} type="button" className={choice} onClick={() => log(id)}>
                <Key>{String(i + 1)}</Key> {MISTAKES[id].happens}
              </button>
            ))}
          </div>
        </>
      )}
      {panel.kind === 'which' && (
        <>
          <h2 className="font-bold mb-2">{MISTAKES[panel.id].happens}: which string?</h2>
          <div className="grid gap-2 grid-cols-2">
            {strings.map((p) => (
              <button key={p.number} type="button" className={choice} onClick={() => log(panel.id, p.number)}>
                <Key>{String(p.number)}</Key> {p.note}, {p.lies} side
              </button>
            ))}
          </div>
        </>
      )}
      {panel.kind === 'recovery' && (
        <>
          <h2 className="font-bold">{MISTAKES[panel.id].happens}</h2>
          <p className="muted">
            {MISTAKES[panel.id].cause}.
            {isRedone(panel.id)
              ? ' It happens to everyone; nothing is lost until the string is cut.'
              : stopsFor(panel.id) === null && ' It happens to everyone.'}
          </p>
          <ol className="list-decimal pl-6 my-3">
            {MISTAKES[panel.id].recovery.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ol>
          {MISTAKES[panel.id].stringLost && loss && <LossLine loss={loss} />}
        </>
      )}
      {panel.kind === 'why' && (
        <>
          <h2 className="font-bold mb-2">Why</h2>
          {[...new Set(steps.map((s) => s.reason))].map((reason) => (
            <p key={reason} className="mb-2">
              {reason}
            </p>
          ))}
          {steps.flatMap((s) =>
            Object.values(s.numbers ?? {}).map((q) => (
              <p key={`${s.key}/${q.label}`} className="mb-1">
                <b>
                  {steps.length > 1 && s.positions.length === 1 && `String ${s.positions[0]}, `}
                  {q.label}: {sayQuantity(q)}.
                </b>{' '}
                {q.why}
              </p>
            )),
          )}
        </>
      )}
      {panel.kind === 'gate' && (
        <>
          <h2 className="font-bold">{locked.length > 0 ? 'Locked: this cannot be undone' : 'This cannot be undone'}</h2>
          {locked.length > 0 ? (
            <>
              <ul className="list-disc pl-6 my-2">
                {locked.map((line) => (
                  <li key={line}>{line}</li>
                ))}
              </ul>
              <p className="muted mb-2">Go back and do that first, or say why you are going ahead:</p>
            </>
          ) : (
            <p className="muted my-2">Everything before it is done. Confirm once you have done it.</p>
          )}
          <div className="grid gap-2">
            {locked.length === 0 && (
              <button type="button" className={choice} onClick={confirmGate}>
                <Key>y</Key> It is done
              </button>
            )}
            {locked.length > 0 &&
              GATE_REASONS.map((because, i) => (
                <button key={because} type="button" className={choice} onClick={() => override(because)}>
                  <Key>{String(i + 1)}</Key> {because}
                </button>
              ))}
          </div>
        </>
      )}
      {panel.kind === 'no' && (
        <>
          <h2 className="font-bold mb-2">Which check failed?</h2>
          <WhichStep steps={panel.steps} choose={noTo} />
        </>
      )}
      {panel.kind === 'skip' && (
        <>
          <h2 className="font-bold mb-2">Reason for skipping</h2>
          <div className="grid gap-2">
            {skips.map((s, i) => (
              <button
                key={`${s.step.key}/${s.because}`}
                type="button"
                className={choice}
                onClick={() => skip(s.step, s.because)}
              >
                <Key>{String(i + 1)}</Key>{' '}
                {steps.length > 1
                  ? `${fillText(s.step.title, s.step.numbers)
                      .map((x) => x.text)
                      .join('')} ${s.because}`
                  : s.because}
              </button>
            ))}
          </div>
        </>
      )}
      {panel.kind === 'help' && (
        <>
          <h2 className="font-bold mb-2">Keys</h2>
          <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
            {[
              ['space', 'done or yes, then the next step'],
              ['⌫', 'back one step; nothing is lost'],
              ['n', 'answer no, and see how to put it right'],
              ['1–9', 'tick that string or row; in string-by-string view, go to that string'],
              ['m', 'something went wrong'],
              ['t', 'open or close the tuner'],
              ['s', 'skip this step, with a reason'],
              ['w', 'why this step and these figures'],
              ['d', 'change the method this time, with a reason'],
              ['esc', 'close this'],
            ].map(([key, does]) => (
              <div key={key} className="contents">
                <dt>
                  <Key>{key as string}</Key>
                </dt>
                <dd>{does}</dd>
              </div>
            ))}
          </dl>
        </>
      )}
      <button type="button" className="btn min-h-14 mt-3 text-lg" onClick={close}>
        <Key>space</Key> back to the step
      </button>
    </section>
  );
}
