import { TensionChart } from '../../components/drawings/TensionChart';
import { InstrumentFields } from './InstrumentFields';
import { NEWTON_PER_LBF } from './known';
import { OneString } from './OneString';
import { StringsTable } from './StringsTable';
import { type CalculatorProps, useCalculator } from './useCalculator';

/** What strings pull on an instrument, one set against another, and how one of them goes on its post. */
export function Calculator(props: CalculatorProps) {
  const of = useCalculator(props);
  const { build, pull, was, compared, position, one } = of;
  const bassShare = pull.totalN > 0 ? Math.round((pull.bassN / pull.totalN) * 100) : 0;
  return (
    <div className="grid gap-6 *:min-w-0">
      <div className="lg:pr-72">
        <h1 className="text-2xl font-bold">
          {pull.positions.length === 0
            ? 'Choose strings to see their tension'
            : compared
              ? compared.says
              : `${pull.totalN.toFixed(0)} N in total, ${bassShare} % on the bass side`}
        </h1>
        <p className="muted">
          {pull.positions.length > 0 &&
            `${pull.totalN.toFixed(0)} N (${(pull.totalN / NEWTON_PER_LBF).toFixed(0)} lbf) in total; bass side ${pull.bassN.toFixed(0)} N, treble side ${pull.trebleN.toFixed(0)} N; the highest tension is ${pull.spread.toFixed(1)} times the lowest.`}
          {props.tag && ` Filled in from ${props.tag}; changes here are not saved to it.`}
        </p>
      </div>

      <InstrumentFields of={of} />

      <div className="grid gap-x-6 gap-y-4 xl:grid-cols-2 items-start *:min-w-0">
        <StringsTable of={of} sets={props.sets} />
        <section aria-labelledby="pull">
          <h2 id="pull" className="font-bold mb-2">
            Tension by string{compared && <span className="muted font-normal">, the mark shows the set compared</span>}
          </h2>
          <TensionChart
            bars={build.positions.map((p) => {
              const at = of.pullAt(p.number);
              return {
                number: p.number,
                note: p.note,
                n: at?.tensionN ?? null,
                beforeN: was?.positions.find((x) => x.number === p.number)?.tensionN ?? null,
                breaksN: at?.margin.semitones == null ? null : at.tensionN * 2 ** (at.margin.semitones / 6),
                lit: p.number === position.number,
              };
            })}
          />
        </section>
      </div>

      {one && <OneString of={of} one={one} />}
    </div>
  );
}
