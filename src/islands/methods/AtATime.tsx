import { SAFE_SHARE } from '../../../core/load/during';
import { LoadChart } from '../../components/drawings/LoadChart';
import { Choice, Row } from './Choice';
import type { MethodInHand } from './useMethod';

const percent = (share: number) => `${Math.round(share * 100)} %`;

/** How many strings at a time, by what each way does to the instrument on the way. */
export function AtATime({ of: { build, method, adapted, loads, change } }: { of: MethodInHand }) {
  return (
    <section aria-labelledby="loads" className="grid gap-x-6 gap-y-2 lg:grid-cols-[1fr_420px] items-start *:min-w-0">
      <div>
        <h2 id="loads" className="font-bold mb-2">
          Strings at a time
        </h2>
        <Choice name="at-a-time" heads={['tension left', 'most uneven', 'minutes']}>
          {loads.map((row) => (
            <Row
              key={row.name}
              group="at-a-time"
              label={row.name}
              does={
                row.refused
                  ? `Not here: only the strings hold this bridge, so few may be off at once; below ${percent(SAFE_SHARE)} of the tension it may fall.`
                  : row.does
              }
              bad={row.refused !== null}
              checked={method.atATime === row.atATime}
              onChoose={() => change({ atATime: row.atATime })}
              cells={[
                percent(row.load.leastShare),
                percent(row.load.worstLean),
                row.minutes === null ? '' : row.minutes.toFixed(0),
              ]}
            />
          ))}
        </Choice>
      </div>
      <div>
        <h3 className="muted text-sm mb-1">Tension left on during the change</h3>
        <LoadChart
          floating={build.bridge === 'floating'}
          lines={loads.map((row) => ({
            name: row.name,
            short: row.atATime === 'all' ? 'all' : `${row.atATime}`,
            steps: row.load.steps,
            lit: row.atATime === adapted.method.atATime,
            refused: row.refused !== null,
          }))}
        />
      </div>
    </section>
  );
}
