import { tagPath } from '../../../core/instruments/tag';
import type { RecordSummary } from '../../../server/bench/closed';
import type { ProblemAnswer } from '../../ui/post';

/** What became of a record that was sent: no answer yet, somebody else was first, or what is wrong with it. */
export function FinishTold({
  tag,
  silent,
  problem,
  takeBack,
  keepAsNote,
}: {
  tag: string;
  silent: boolean;
  problem: ProblemAnswer | null;
  takeBack: () => void;
  keepAsNote: (recordId: number) => void;
}) {
  const current = problem?.current as RecordSummary | null | undefined;
  return (
    <div aria-live="assertive">
      {silent && (
        <div className="card-paper border-accent p-4 mt-3">
          <p>
            No answer from the server. Everything you entered is kept on this device and sent when the connection
            returns; it is recorded only once. You can start the next instrument.
          </p>
          <p className="flex flex-wrap gap-2 mt-2">
            <button type="button" className="btn min-h-14 text-lg" onClick={() => takeBack()}>
              Edit it first
            </button>
            <a className="btn min-h-14 text-lg" href="/">
              Back to Today
            </a>
          </p>
        </div>
      )}
      {problem !== null && problem.type === 'arvick:conflict' && (
        <div className="card-paper border-error p-4 mt-3">
          <p className="font-bold">{problem.detail}</p>
          <p>Their record stands, and what you entered is still here.</p>
          <div className="flex flex-wrap gap-2 mt-2">
            {current && (
              <button
                type="button"
                className="btn btn-primary min-h-14 text-lg"
                onClick={() => keepAsNote(current.recordId)}
              >
                Save mine as a note on that record
              </button>
            )}
            <a className="btn min-h-14 text-lg" href={`/instruments/${tagPath(tag)}`}>
              See {tag} first
            </a>
          </div>
        </div>
      )}
      {problem !== null && problem.type !== 'arvick:conflict' && (
        <p className="card-paper border-error p-4 mt-3">
          <b>{problem.title}.</b> {problem.detail}
        </p>
      )}
    </div>
  );
}
