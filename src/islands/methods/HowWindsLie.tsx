import { Choice, Row } from './Choice';
import type { MethodInHand } from './useMethod';

const HOLDS = { clamped: 'held by its winds', friction: 'by friction only', locked: 'locked' };

/** How the winds lie, by how they hold and how long they take to undo. */
export function HowWindsLie({ of: { adapted, winds, change } }: { of: MethodInHand }) {
  return (
    <section aria-labelledby="winds">
      <h2 id="winds" className="font-bold mb-2">
        Winding pattern
      </h2>
      <Choice name="winds" heads={['time to remove', 'minutes']}>
        {winds.map((row) => (
          <Row
            key={row.value}
            group="winds"
            label={row.name}
            does={row.does}
            checked={adapted.method.winds === row.value}
            disabled={winds.length === 1}
            onChoose={() => change({ winds: row.value })}
            badge={HOLDS[row.hold]}
            cells={[`${row.removalMinutes.toFixed(1)} min`, row.minutes.toFixed(0)]}
          />
        ))}
      </Choice>
    </section>
  );
}
