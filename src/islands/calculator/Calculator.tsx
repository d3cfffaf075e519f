import { useMemo, useState } from 'react';
import {
  type Build,
  FAMILIES,
  FAMILY_NAMES,
  type Family,
  PART_NAMES,
  SIZES,
  speakingLengthMm,
} from '../../../core/instruments/build';
import { defaultBuild } from '../../../core/instruments/defaults';
import { CORES_OF } from '../../../core/instruments/validity';
import { A4_RANGE_HZ } from '../../../core/pitch/notes';
import { type Temperament, TUNINGS, usualTuning } from '../../../core/pitch/tunings';
import { adaptMethod, HOUSE_METHODS, workingOrder } from '../../../core/procedures/method';
import { isLocking, stringNumbers } from '../../../core/procedures/numbers';
import { compareSlack } from '../../../core/procedures/slackSchools';
import type { Method, StringToFit } from '../../../core/procedures/types';
import { turnsOver } from '../../../core/procedures/winds';
import { postWord, stringLabel } from '../../../core/procedures/words';
import { buttonTurns, slipMm } from '../../../core/settling/slip';
import { massKgPerM } from '../../../core/strings/mass';
import {
  type CoreMaterial,
  MATERIAL_NAMES,
  type Material,
  modulusMpa,
  WRAP_MATERIALS,
} from '../../../core/strings/materials';
import { compareSets, pullOf, tellApart } from '../../../core/strings/set';
import { slotAdvice } from '../../../core/strings/strength';
import { mmOfThou, thouOf } from '../../../core/strings/tension';
import { suggestSet, usualSet } from '../../../core/strings/usual';
import { tightens } from '../../../core/winding/post';
import { HeadDrawing } from '../../components/drawings/HeadDrawing';
import { PostDrawing } from '../../components/drawings/PostDrawing';
import { TensionChart } from '../../components/drawings/TensionChart';

/** A string of the catalogue or of one's own, as far as the calculator needs it. */
export interface KnownString {
  name: string;
  gaugeMm: number;
  coreMm: number;
  core: CoreMaterial;
  wrap: Material | null;
  massKgPerM: number;
  lengthMm: number;
}

export interface KnownSet {
  id: string;
  name: string;
  family: Family;
  strings: Record<number, KnownString>;
}

export interface CalculatorProps {
  tag: string | null;
  build: Build;
  method: Method;
  /** The strings to begin with, by position. */
  strings: Record<number, KnownString>;
  /** What is on now, to compare with. */
  before: Record<number, KnownString>;
  sets: KnownSet[];
  a4Hz: number;
}

const NEWTON_PER_LBF = 4.4482216;
const round = (value: number, digits: number) => Number(value.toFixed(digits));
const usualStrings = (build: Build): Record<number, KnownString> =>
  Object.fromEntries(usualSet(build).map((s) => [s.number, { ...s, name: 'as a usual pull asks' }]));

export function Calculator(props: CalculatorProps) {
  const [build, setBuild] = useState(props.build);
  const [house, setHouse] = useState(props.method);
  // Drawn and counted as the parts make it.
  const { method } = adaptMethod(build, house, 'full-set');
  const [strings, setStrings] = useState(props.strings);
  const [before, setBefore] = useState(props.before);
  const [a4Hz, setA4] = useState(props.a4Hz);
  const [temperament, setTemperament] = useState<Temperament>('equal');
  const [number, setNumber] = useState(props.build.positions[0]?.number ?? 1);
  const [slackId, setSlackId] = useState<string | null>(null);

  const choose = (family: Family, size: string) => {
    const next = defaultBuild(family, size);
    setBuild(next);
    setHouse(HOUSE_METHODS[family]);
    const suits = suggestSet(
      next,
      props.sets
        .filter((s) => s.family === family && next.positions.every((p) => s.strings[p.number]))
        .map((s) => ({
          id: s.strings,
          pullN: pullOf(
            next,
            next.positions.map((p) => ({ number: p.number, ...(s.strings[p.number] as KnownString) })),
          ).totalN,
          reaches: true,
        })),
    );
    setStrings(suits ?? usualStrings(next));
    setBefore({});
    setNumber(next.positions[0]?.number ?? 1);
  };
  const tunings = TUNINGS[build.family].filter((t) => t.notes.length === build.positions.length);
  const notes = build.positions.map((p) => p.note).join(' ');
  const tuning = tunings.find((t) => t.notes.join(' ') === notes);
  const a4 = Number.isFinite(a4Hz) && a4Hz >= A4_RANGE_HZ.low && a4Hz <= A4_RANGE_HZ.high ? a4Hz : 440;

  const list = useMemo(
    () => (from: Record<number, KnownString>) =>
      build.positions.flatMap((p) =>
        from[p.number] ? [{ number: p.number, ...(from[p.number] as KnownString) }] : [],
      ),
    [build],
  );
  const tuned = { a4Hz: a4, temperament };
  const pull = pullOf(build, list(strings), tuned);
  const compared = Object.keys(before).length > 0 ? compareSets(build, list(before), list(strings), tuned) : null;
  const was = Object.keys(before).length > 0 ? pullOf(build, list(before), tuned) : null;
  const pullAt = (n: number) => pull.positions.find((p) => p.number === n) ?? null;
  const position =
    build.positions.find((p) => p.number === number) ?? (build.positions[0] as Build['positions'][number]);
  const known = strings[position.number];
  const fit: StringToFit | null = known
    ? { number: position.number, wound: known.wrap !== null, half: false, ...known }
    : null;
  const rows = fit ? compareSlack(build, method, fit, a4) : [];
  const row = rows.find((r) => r.id === slackId) ?? rows.find((r) => r.isHouse) ?? rows[0];
  const n = fit ? stringNumbers(build, method, position, fit, a4, row?.rule) : null;
  const margin = pullAt(position.number)?.margin ?? null;
  const slot = position.nutSlotMm && known ? slotAdvice(position.nutSlotMm, known.gaugeMm) : null;
  const thin = thinPair(build, strings);
  const bassShare = pull.totalN > 0 ? Math.round((pull.bassN / pull.totalN) * 100) : 0;
  const slip =
    n && known
      ? slipMm({
          cents: 100,
          tensionN: n.tensionN,
          totalLengthMm: speakingLengthMm(build, position) + position.nutToPostMm,
          coreMm: known.coreMm,
          modulusMpa: modulusMpa(known.core),
        })
      : null;

  const number_ = (
    label: string,
    value: number,
    change: (v: number) => void,
    more: { min: number; max: number; step?: number },
  ) => (
    <label className="grid gap-1">
      <span className="muted text-sm">{label}</span>
      <input
        type="number"
        className="input w-full"
        value={value}
        step={more.step ?? 1}
        min={more.min}
        max={more.max}
        onChange={(event) => {
          const v = event.target.valueAsNumber;
          if (v >= more.min && v <= more.max) change(v);
        }}
      />
    </label>
  );
  return (
    <div className="grid gap-6 *:min-w-0">
      <div className="lg:pr-72">
        <h1 className="text-2xl font-bold">
          {pull.positions.length === 0
            ? 'Choose strings to see their pull'
            : compared
              ? compared.says
              : `${pull.totalN.toFixed(0)} N in all, ${bassShare} % of it on the bass side`}
        </h1>
        <p className="muted">
          {pull.positions.length > 0 &&
            `${pull.totalN.toFixed(0)} N, ${(pull.totalN / NEWTON_PER_LBF).toFixed(0)} lbf in all; bass half ${pull.bassN.toFixed(0)} N, treble half ${pull.trebleN.toFixed(0)} N; the tightest string pulls ${pull.spread.toFixed(1)} times the slackest.`}
          {props.tag && ` Filled in from ${props.tag}; nothing here changes it.`}
        </p>
      </div>

      <section
        aria-label="Instrument and tuning"
        className="card-paper px-4 py-3 grid gap-3 grid-cols-2 md:grid-cols-4 xl:grid-cols-9 items-end"
      >
        <label className="grid gap-1 col-span-2">
          <span className="muted text-sm">Family</span>
          <select
            className="select w-full"
            value={build.family}
            onChange={(e) => choose(e.target.value as Family, SIZES[e.target.value as Family][0] as string)}
          >
            {FAMILIES.map((f) => (
              <option key={f} value={f}>
                {FAMILY_NAMES[f]}
              </option>
            ))}
          </select>
        </label>
        <label className="grid gap-1">
          <span className="muted text-sm">Size</span>
          <select className="select w-full" value={build.size} onChange={(e) => choose(build.family, e.target.value)}>
            {SIZES[build.family].map((s) => (
              <option key={s}>{s}</option>
            ))}
          </select>
        </label>
        {number_('Scale, mm', round(build.scaleMm, 1), (scaleMm) => setBuild({ ...build, scaleMm }), {
          min: 150,
          max: 1300,
        })}
        <label className="grid gap-1 col-span-2">
          <span className="muted text-sm">Tuning</span>
          <select
            className="select w-full"
            value={tuning?.id ?? 'own'}
            onChange={(e) => {
              const t = tunings.find((x) => x.id === e.target.value) ?? usualTuning(build.family, build.size);
              setBuild({ ...build, positions: build.positions.map((p, i) => ({ ...p, note: t.notes[i] ?? p.note })) });
            }}
          >
            {!tuning && <option value="own">{notes}</option>}
            {tunings.map((t) => (
              <option key={t.id} value={t.id}>
                {t.name}: {t.notes.join(' ')}
              </option>
            ))}
          </select>
        </label>
        {number_('A4, Hz', a4Hz, setA4, { min: A4_RANGE_HZ.low, max: A4_RANGE_HZ.high, step: 0.5 })}
        <label className="grid gap-1 col-span-2">
          <span className="muted text-sm">Intervals</span>
          <select
            className="select w-full"
            value={temperament}
            onChange={(e) => setTemperament(e.target.value as Temperament)}
          >
            <option value="equal">equal temperament</option>
            <option value="pure">pure, from the A</option>
          </select>
        </label>
      </section>

      <div className="grid gap-x-6 gap-y-4 xl:grid-cols-2 items-start *:min-w-0">
        <section aria-labelledby="set">
          <div className="flex flex-wrap items-center gap-3 mb-2">
            <h2 id="set" className="font-bold">
              Strings
            </h2>
            <SetPicker label="Put on a set" sets={props.sets} build={build} onPick={(s) => setStrings(s.strings)} />
            <SetPicker
              label="Compare with"
              sets={props.sets}
              build={build}
              none
              onPick={(s) => setBefore(s.strings)}
              onNone={() => setBefore({})}
            />
          </div>
          <div className="card-paper px-3 py-1 overflow-x-auto">
            <table className="w-full text-left" aria-label="Strings by position">
              <thead>
                <tr className="muted text-sm">
                  <th className="font-normal py-1">String</th>
                  <th className="font-normal px-2">Gauge, in/1000</th>
                  <th className="font-normal px-2 text-right">Pull</th>
                  <th className="font-normal px-2 text-right whitespace-nowrap">To breaking</th>
                </tr>
              </thead>
              <tbody>
                {build.positions.map((p) => {
                  const s = strings[p.number];
                  const at = pullAt(p.number);
                  const lit = p.number === position.number;
                  return (
                    <tr key={p.number} className={`quiet-row ${lit ? 'font-semibold' : ''}`}>
                      <th scope="row" className="py-1 font-normal">
                        <button
                          type="button"
                          className="text-left link link-hover tag"
                          aria-pressed={lit}
                          onClick={() => setNumber(p.number)}
                        >
                          {p.number} {p.note}
                        </button>
                        <span className="block text-sm muted font-normal">{s?.name ?? 'no string'}</span>
                      </th>
                      <td className="px-2">
                        {s && (
                          <input
                            type="number"
                            className="input input-sm w-20"
                            aria-label={`Gauge of string ${p.number} ${p.note}, thousandths of an inch`}
                            min={4}
                            max={200}
                            step={0.5}
                            value={round(thouOf(s.gaugeMm), 1)}
                            onChange={(event) => {
                              const thou = event.target.valueAsNumber;
                              if (thou >= 4 && thou <= 200)
                                setStrings({ ...strings, [p.number]: own(s, { gaugeMm: mmOfThou(thou) }) });
                            }}
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
                        className={`px-2 text-right whitespace-nowrap ${at?.margin.semitones != null && at.margin.semitones < 3 ? 'text-error' : ''}`}
                      >
                        {at?.margin.semitones == null ? (
                          <span className="muted">not judged</span>
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
        <section aria-labelledby="pull">
          <h2 id="pull" className="font-bold mb-2">
            Pull by string{compared && <span className="muted font-normal">, the mark is what was on before</span>}
          </h2>
          <TensionChart
            bars={build.positions.map((p) => {
              const at = pullAt(p.number);
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

      {fit && known && n && row && (
        <section aria-labelledby="one" className="grid gap-x-6 gap-y-4 xl:grid-cols-2 items-start *:min-w-0">
          <div>
            <h2 id="one" className="font-bold mb-2">
              {stringLabel(build, position)}: {n.slackMm.toFixed(0)} mm of slack, {n.winds.turns.toFixed(1)} turns
            </h2>
            <div className="card-paper px-4 py-3 grid gap-3 grid-cols-2 md:grid-cols-3">
              <label className="grid gap-1 col-span-2 md:col-span-3">
                <span className="muted text-sm">Slack by</span>
                <select className="select w-full" value={row.id} onChange={(e) => setSlackId(e.target.value)}>
                  {rows.map((r) => (
                    <option key={r.id} value={r.id}>
                      {r.name}: {r.slackMm.toFixed(0)} mm, {r.turns.toFixed(1)} turns
                      {r.isHouse ? ', as the house does it' : ''}
                    </option>
                  ))}
                </select>
              </label>
              <label className="grid gap-1">
                <span className="muted text-sm">Core</span>
                <select
                  className="select w-full"
                  value={known.core}
                  onChange={(e) =>
                    setStrings({ ...strings, [position.number]: own(known, { core: e.target.value as CoreMaterial }) })
                  }
                >
                  {[...new Set([...CORES_OF[build.family], known.core])].map((c) => (
                    <option key={c} value={c}>
                      {MATERIAL_NAMES[c]}
                    </option>
                  ))}
                </select>
              </label>
              <label className="grid gap-1">
                <span className="muted text-sm">Wrap</span>
                <select
                  className="select w-full"
                  value={known.wrap ?? ''}
                  onChange={(e) =>
                    setStrings({
                      ...strings,
                      [position.number]: own(known, { wrap: (e.target.value || null) as Material | null }),
                    })
                  }
                >
                  <option value="">plain</option>
                  {WRAP_MATERIALS.map((w) => (
                    <option key={w} value={w}>
                      {MATERIAL_NAMES[w]}
                    </option>
                  ))}
                </select>
              </label>
              {known.wrap !== null &&
                number_(
                  'Core, in/1000',
                  round(thouOf(known.coreMm), 1),
                  (thou) => setStrings({ ...strings, [position.number]: own(known, { coreMm: mmOfThou(thou) }) }),
                  { min: 3, max: Math.max(4, Math.floor(thouOf(known.gaugeMm)) - 1), step: 0.5 },
                )}
              {number_(
                'Post, mm',
                build.post.diameterMm,
                (diameterMm) => setBuild({ ...build, post: { ...build.post, diameterMm } }),
                { min: 2, max: 40, step: 0.1 },
              )}
              {number_(
                'Room under the hole, mm',
                build.post.roomUnderHoleMm,
                (roomUnderHoleMm) => setBuild({ ...build, post: { ...build.post, roomUnderHoleMm } }),
                { min: 1, max: 60, step: 0.5 },
              )}
              {number_(
                'Between posts, mm',
                build.post.spacingMm,
                (spacingMm) => setBuild({ ...build, post: { ...build.post, spacingMm } }),
                { min: 5, max: 90, step: 0.5 },
              )}
            </div>
            <dl className="card-paper px-4 py-1 mt-3">
              <Fact name="Winds">{`${n.winds.turns.toFixed(1)} turns, ${n.winds.coils} coils: ${n.winds.fromSlack.toFixed(1)} from the slack, ${n.winds.fromStretch.toFixed(1)} as it stretches to pitch`}</Fact>
              {n.advice && (
                <Fact name="Instead" bad>
                  {n.advice}
                </Fact>
              )}
              <Fact name="Stack">{`${n.winds.stackMm.toFixed(1)} of ${build.post.roomUnderHoleMm} mm under the hole`}</Fact>
              {build.head !== 'pegbox' && <Fact name="Cut, if cut before winding">{n.cut.says}</Fact>}
              <Fact
                name="Length"
                bad={n.reach.verdict !== 'reaches'}
              >{`${n.neededLengthMm.toFixed(0)} mm needed of ${known.lengthMm.toFixed(0)} mm. ${n.reach.says}`}</Fact>
              {slot && (
                <Fact name="Nut slot" bad>
                  {slot}
                </Fact>
              )}
              {margin?.semitones != null && (
                <Fact
                  name="To breaking"
                  bad={margin.semitones < 3}
                >{`${margin.semitones.toFixed(1)} semitones above ${position.note}: ${margin.stressMpa.toFixed(0)} of ${margin.strengthMpa?.toFixed(0)} MPa`}</Fact>
              )}
              {slip !== null && (
                <Fact name="A semitone flat is">{`${slip.toFixed(2)} mm of slip, ${buttonTurns(slip, build.post.diameterMm, known.gaugeMm, build.tuner).toFixed(2)} turns of the button`}</Fact>
              )}
            </dl>
          </div>
          <div className="grid grid-cols-2 gap-3 items-start max-w-[640px]">
            <PostDrawing
              kind={postWord(build)}
              turns={n.winds.turns}
              gaugeMm={known.gaugeMm}
              diameterMm={build.post.diameterMm}
              over={turnsOver(method, known.wrap !== null)}
              selfLock={method.winds === 'self-lock'}
              locking={isLocking(build)}
              slotted={build.tuner === 'slotted-post'}
              rotation={tightens(build.head, position.side, build.handedness)}
              stackMm={n.winds.stackMm}
              roomMm={build.post.roomUnderHoleMm}
            />
            <HeadDrawing
              build={build}
              order={workingOrder(build, build.positions, method.order).map((p) => p.number)}
              lit={position.number}
              cutMm={build.head === 'pegbox' ? null : n.cut.pastPostMm}
            />
            <p className="col-span-2 muted text-sm">
              {PART_NAMES[build.tuner]}; numbers in the posts are the working order. The string leaves on the inside.
            </p>
          </div>
        </section>
      )}
    </div>
  );
}

/** A string changed by hand: its mass is worked out anew and its name says that it is one's own. */
function own(s: KnownString, change: Partial<Pick<KnownString, 'gaugeMm' | 'coreMm' | 'core' | 'wrap'>>): KnownString {
  const next = { ...s, ...change };
  const plain = next.wrap === null;
  const coreMm = plain
    ? next.gaugeMm
    : s.wrap === null || next.coreMm >= next.gaugeMm
      ? next.gaugeMm * 0.4
      : next.coreMm;
  return {
    ...next,
    coreMm,
    name: 'own',
    massKgPerM: massKgPerM({ gaugeMm: next.gaugeMm, coreMm, core: next.core, wrap: next.wrap }),
  };
}

/** How to tell the two thinnest plain strings apart without marks. */
function thinPair(build: Build, strings: Record<number, KnownString>): string | null {
  const plain = build.positions
    .flatMap((p) =>
      strings[p.number] && strings[p.number]?.wrap === null ? [{ p, ...(strings[p.number] as KnownString) }] : [],
    )
    .sort((a, b) => a.gaugeMm - b.gaugeMm);
  const [a, b] = plain;
  const apart = a && b ? tellApart(a, b) : null;
  return apart && a && b ? `${a.p.note} against ${b.p.note} without marks: ${apart.how}` : null;
}

function Fact({ name, bad, children }: { name: string; bad?: boolean; children: string }) {
  return (
    <div className="quiet-row py-1.5">
      <dt className="muted text-sm">{name}</dt>
      <dd className={bad ? 'text-warning' : ''}>{children}</dd>
    </div>
  );
}

function SetPicker({
  label,
  sets,
  build,
  none,
  onPick,
  onNone,
}: {
  label: string;
  sets: KnownSet[];
  build: Build;
  none?: boolean;
  onPick: (set: KnownSet) => void;
  onNone?: () => void;
}) {
  const fitting = sets.filter((s) => s.family === build.family && build.positions.every((p) => s.strings[p.number]));
  return (
    <label className="flex items-center gap-2">
      <span className="muted text-sm">{label}</span>
      <select
        className="select select-sm w-auto max-w-52"
        value=""
        onChange={(event) => {
          const set = fitting.find((s) => s.id === event.target.value);
          if (set) onPick(set);
          else if (event.target.value === 'none') onNone?.();
        }}
      >
        <option value="">choose</option>
        {none && <option value="none">nothing</option>}
        {fitting.map((s) => (
          <option key={s.id} value={s.id}>
            {s.name}
          </option>
        ))}
      </select>
    </label>
  );
}
