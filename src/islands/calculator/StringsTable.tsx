import { mmOfThou, thouOf } from '../../../core/strings/tension';
import { NumberCell, SetPicker } from './fields';
import { type KnownSet, LITTLE_MARGIN, NEWTON_PER_LBF, own, round, thinPair } from './known';
import type { Calculation } from './useCalculator';

/** All strings: gauge, pull and how far each is from breaking. */
export function StringsTable({ of, sets }: { of: Calculation; sets: KnownSet[] }) {
  const { build, strings, position } = of;
  const thin = thinPair(build, strings);
  return (
    <section aria-labelledby="set">
      <div className="flex flex-wrap items-center gap-3 mb-2">
        <h2 id="set" className="font-bold">
          Strings
        </h2>
        <SetPicker label="Choose a set" sets={sets} build={build} onPick={(s) => of.setStrings(s.strings)} />
        <SetPicker
          label="Compare with"
          sets={sets}
          build={build}
          none
          onPick={(s) => of.setBefore(s.strings)}
          onNone={() => of.setBefore({})}
        />
      </div>
      <div className="card-paper px-3 py-1 overflow-x-auto">
        <table className="w-full text-left" aria-label="Strings by position">
          <thead>
            <tr className="muted text-sm">
              <th className="font-normal py-1">String</th>
              <th className="font-normal px-2">Gauge, in/1000</th>
              <th className="font-normal px-2 text-right">Tension</th>
              <th className="font-normal px-2 text-right whitespace-nowrap">Before breaking</th>
            </tr>
          </thead>
          <tbody>
            {build.positions.map((p) => {
              const s = strings[p.number];
              const at = of.pullAt(p.number);
              const lit = p.number === position.number;
              return (
                <tr key={p.number} className={`quiet-row ${lit ? 'font-semibold' : ''}`}>
                  <th scope="row" className="py-1 font-normal">
                    <button
                      type="button"
                      className="text-left link link-hover tag"
                      aria-pressed={lit}
                      onClick={() => of.setNumber(p.number)}
                    >
                      {p.number} {p.note}
                    </button>
                    <span className="block text-sm muted font-normal">{s?.name ?? 'no string'}</span>
                  </th>
                  <td className="px-2">
                    {s && (
                      <NumberCell
                        name={`Gauge of string ${p.number} ${p.note}, thousandths of an inch`}
                        min={4}
                        max={200}
                        step={0.5}
                        value={round(thouOf(s.gaugeMm), 1)}
                        change={(thou) => of.setString(p.number, own(s, { gaugeMm: mmOfThou(thou) }))}
                      />
                    )}
                  </td>
                  <td className="px-2 text-right whitespace-nowrap">
                    {at && `${at.tensionN.toFixed(1)} N`}
                    {at && (
                      <span className="block text-sm muted font-normal">
                        {(at.tensionN / NEWTON_PER_LBF).toFixed(1)} lbf
                      </span>
                    )}
                  </td>
                  <td
                    className={`px-2 text-right whitespace-nowrap ${at?.margin.semitones != null && at.margin.semitones < LITTLE_MARGIN ? 'text-error' : ''}`}
                  >
                    {at?.margin.semitones == null ? (
                      <span className="muted">not known</span>
                    ) : (
                      `${at.margin.semitones.toFixed(1)} semitones`
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      {thin && <p className="text-sm muted mt-2">{thin}</p>}
    </section>
  );
}
