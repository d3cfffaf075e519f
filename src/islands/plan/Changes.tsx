import { useEffect, useMemo, useRef } from 'react';
import { count } from '../../../core/count';
import { sayWeekday } from '../../../core/dates';
import { type ChangeNames, type PersonChange, planChanges, sayChange } from '../../../core/planning/changes';
import { isVisit, PLAN_KIND_WORDS } from '../../../core/planning/kinds';
import type { PlanInput } from '../../../server/plan/problem';
import type { PlanInHand } from './usePlan';

function namesIn(input: PlanInput): ChangeNames {
  const named = (list: readonly { id: number; name: string }[]) => {
    const known = new Map(list.map((x) => [x.id, x.name]));
    return (id: number) => known.get(id) ?? 'somebody else';
  };
  return {
    person: named(input.people),
    place: named(input.places),
    day: sayWeekday,
    job: (j) => (isVisit(j.kind) || j.kind === 'inspection' ? `${j.tag} ${PLAN_KIND_WORDS[j.kind]}` : j.tag),
  };
}

/** What a plan changes, person by person, each session in a sentence. */
export function Changes({ input, changes }: { input: PlanInput; changes: readonly PersonChange[] }) {
  const names = useMemo(() => namesIn(input), [input]);
  if (changes.length === 0) return <p>No changes for anyone.</p>;
  return (
    <dl className="grid gap-x-4 gap-y-1 sm:grid-cols-[max-content_1fr]">
      {changes.map((c) => (
        <div key={c.personId} className="contents">
          <dt className="font-semibold">{names.person(c.personId)}</dt>
          <dd>
            <ul>
              {c.sessions.map((s) => (
                <li key={`${s.on}/${s.placeId}`}>{sayChange(s, c.personId, names)}.</li>
              ))}
              {c.watches.length > 0 && (
                <li>
                  Learning alongside:{' '}
                  {c.watches
                    .map((w) => `${names.job(w)}, ${sayWeekday(w.on)} with ${names.person(w.personId)}`)
                    .join('; ')}
                  .
                </li>
              )}
            </ul>
          </dd>
        </div>
      ))}
    </dl>
  );
}

/** Before a plan is published: what it changes for whom. */
export function BeforePublishing({ input, hand, close }: { input: PlanInput; hand: PlanInHand; close: () => void }) {
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => heading.current?.focus(), []);
  const { toPublish } = hand;
  const changes = useMemo(() => {
    const tags = new Map(input.jobs.map((j) => [j.key, j.tag]));
    const after = toPublish().map((i) => ({ ...i, tag: tags.get(`${i.instrumentId}/${i.kind}`) ?? '' }));
    return planChanges(input.standing, after);
  }, [input, toPublish]);
  const people = changes.filter((c) => c.sessions.length + c.watches.length > 0).length;
  return (
    <section className="card-paper border-primary px-4 py-3 grid gap-2" aria-labelledby="before-publishing">
      <h2 id="before-publishing" ref={heading} tabIndex={-1} className="font-bold text-lg outline-none">
        {input.planId === null
          ? `The first plan, for ${count(people, 'person', 'people')}`
          : people === 0
            ? 'Same as the published plan'
            : `What changes for ${count(people, 'person', 'people')}`}
      </h2>
      <Changes input={input} changes={changes} />
      <div className="flex gap-2">
        <button
          type="button"
          className="btn btn-primary"
          onClick={async () => {
            if (await hand.publish()) close();
          }}
        >
          Publish it
        </button>
        <button type="button" className="btn" onClick={close}>
          Not yet
        </button>
      </div>
    </section>
  );
}
