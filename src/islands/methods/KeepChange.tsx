import { Field } from '../../ui/Field';
import { Told } from '../../ui/Told';
import type { MethodEditorProps, MethodInHand } from './useMethod';

/** What was changed, what is in its way, and how it is kept. */
export function KeepChange({ of, props }: { of: MethodInHand; props: MethodEditorProps }) {
  const { house, problems, says, busy, why, setWhy, differs } = of;
  const { tag, maySave } = props;
  const { version } = of.base;
  return (
    <form
      className="sticky bottom-0 z-20 card-paper border-primary p-4 grid gap-2"
      aria-label="Save the change"
      onSubmit={(event) => {
        event.preventDefault();
        void of.save();
      }}
    >
      <p>
        <b>
          Changed:{' '}
          {[
            ...differs,
            ...(JSON.stringify([house.wording, house.steps]) !==
            JSON.stringify([of.base.house.wording, of.base.house.steps])
              ? ['wording or own steps']
              : []),
          ].join(', ')}
          .
        </b>{' '}
        <span className="muted">Kept in this browser until you save or discard it.</span>
      </p>
      {problems.map((line) => (
        <p key={line} className="text-error">
          {line}
        </p>
      ))}
      <Told says={says} />
      <div className="flex flex-wrap items-end gap-3">
        {(maySave || tag) && (
          <Field label="Reason" large className="grow min-w-60">
            <input
              className="input w-full"
              value={why}
              onChange={(event) => setWhy(event.target.value)}
              maxLength={300}
            />
          </Field>
        )}
        {maySave ? (
          <button type="submit" className="btn btn-primary" disabled={busy || !of.worked || problems.length > 0}>
            Save as version {version + 1}
          </button>
        ) : (
          <p>To try it out: only a technician can save it for everyone.</p>
        )}
        {tag && differs.length > 0 && !props.openJob && (
          <button type="button" className="btn" onClick={() => void of.once()} disabled={busy}>
            This time only, on {tag}
          </button>
        )}
        <button type="button" className="btn btn-ghost" onClick={of.drop}>
          Discard
        </button>
      </div>
    </form>
  );
}
