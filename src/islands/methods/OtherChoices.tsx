import { comesLoose, isTied } from '../../../core/parts/tailEnds';
import { CHOICES } from '../../../core/procedures/choices';
import type { Method } from '../../../core/procedures/types';
import { Pick } from './Choice';
import type { MethodInHand } from './useMethod';

/** Order, hole, trimming, stretching, and what only some builds ask. */
export function OtherChoices({ of: { build, method, adapted, change } }: { of: MethodInHand }) {
  return (
    <section aria-labelledby="other">
      <h2 id="other" className="font-bold mb-2">
        Order, hole, trimming, stretching
      </h2>
      <div className="card-paper px-4 py-3 grid gap-3 sm:grid-cols-2">
        <Pick label="Order" value={method.order} options={CHOICES.order} onPick={(order) => change({ order })} />
        {adapted.method.atATime !== 1 && (
          <Pick
            label="Finish first"
            value={method.finish}
            options={CHOICES.finish}
            onPick={(finish) => change({ finish })}
          />
        )}
        {build.head !== 'pegbox' && build.tuner !== 'roller' && (
          <Pick label="Hole" value={method.hole} options={CHOICES.hole} onPick={(hole) => change({ hole })} />
        )}
        <Pick
          label="Trim"
          value={method.trim.when}
          options={CHOICES.trimWhen}
          onPick={(when) => change({ trim: { ...method.trim, when } })}
        />
        <Pick
          label="Left after trimming"
          value={method.trim.leaveMm}
          options={([0, 5, 10] as const).map((mm) => ({ value: mm, name: mm === 0 ? 'flush' : `${mm} mm` }))}
          onPick={(leaveMm) => change({ trim: { ...method.trim, leaveMm } })}
        />
        {comesLoose(build) && (
          <Pick
            label={build.tailEnd === 'wrap-around' ? 'Loose bridge' : 'Loose tailpiece'}
            value={method.hanging}
            options={CHOICES.hanging}
            onPick={(hanging) => change({ hanging })}
          />
        )}
        {isTied(build.tailEnd) && <TiePicks ties={method.ties} pick={(ties) => change({ ties })} />}
        <Pick
          label="Rounds of stretching"
          value={method.stretchRounds}
          options={[0, 1, 2, 3, 4].map((n) => ({
            value: n,
            name: n === 0 ? 'none, play and retune' : n === 1 ? 'one light tug' : `${n}`,
          }))}
          onPick={(stretchRounds) => change({ stretchRounds })}
        />
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="checkbox"
            checked={method.slackPlain !== null}
            onChange={(event) => change({ slackPlain: event.target.checked ? method.slack : null })}
          />
          Different slack for plain strings
        </label>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="checkbox"
            checked={method.slackThinWound !== null}
            onChange={(event) => change({ slackThinWound: event.target.checked ? method.slack : null })}
          />
          Different slack for the thinnest wound string
        </label>
        <Pick
          label="Winds on plain strings"
          value={method.windsPlain ?? 'same'}
          options={[
            { value: 'same', name: 'same as the others' },
            { value: 'one-over', name: 'one over, the rest under' },
            { value: 'two-over', name: 'two over, the rest under' },
          ]}
          onPick={(plain) => change({ windsPlain: plain === 'same' ? null : plain })}
        />
      </div>
    </section>
  );
}

/** How often tied strings go round themselves. */
function TiePicks({ ties, pick }: { ties: Method['ties']; pick: (ties: Method['ties']) => void }) {
  const counts = <N extends number>(of: readonly N[]) => of.map((n) => ({ value: n, name: `${n}` }));
  return (
    <>
      <Pick
        label="Tucks, wound strings"
        value={ties.wound}
        options={counts([1, 2] as const)}
        onPick={(wound) => pick({ ...ties, wound })}
      />
      <Pick
        label="Tucks, plain strings"
        value={ties.plain}
        options={counts([2, 3] as const)}
        onPick={(plain) => pick({ ...ties, plain })}
      />
      <Pick
        label="Tucks, thinnest string"
        value={ties.thinnest}
        options={counts([2, 3, 4] as const)}
        onPick={(thinnest) => pick({ ...ties, thinnest })}
      />
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="checkbox"
          checked={ties.safetyKnot}
          onChange={(event) => pick({ ...ties, safetyKnot: event.target.checked })}
        />
        A small safety knot on the thinnest string
      </label>
    </>
  );
}
