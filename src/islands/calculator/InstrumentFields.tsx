import { FAMILIES, FAMILY_NAMES, type Family, SIZES } from '../../../core/instruments/build';
import { A4_RANGE_HZ } from '../../../core/pitch/notes';
import { type Temperament, TUNINGS, usualTuning } from '../../../core/pitch/tunings';
import { Field } from '../../ui/Field';
import { NumberField } from './fields';
import { round } from './known';
import type { Calculation } from './useCalculator';

/** Which instrument, how long its strings are and how it is tuned. */
export function InstrumentFields({ of }: { of: Calculation }) {
  const { build } = of;
  const tunings = TUNINGS[build.family].filter((t) => t.notes.length === build.positions.length);
  const notes = build.positions.map((p) => p.note).join(' ');
  const tuning = tunings.find((t) => t.notes.join(' ') === notes);
  return (
    <section
      aria-label="Instrument and tuning"
      className="card-paper px-4 py-3 grid gap-3 grid-cols-2 md:grid-cols-4 xl:grid-cols-9 items-start"
    >
      <Field label="Family" className="col-span-2">
        <select
          className="select w-full"
          value={build.family}
          onChange={(e) => of.choose(e.target.value as Family, SIZES[e.target.value as Family][0] as string)}
        >
          {FAMILIES.map((f) => (
            <option key={f} value={f}>
              {FAMILY_NAMES[f]}
            </option>
          ))}
        </select>
      </Field>
      <Field label="Size">
        <select className="select w-full" value={build.size} onChange={(e) => of.choose(build.family, e.target.value)}>
          {SIZES[build.family].map((s) => (
            <option key={s}>{s}</option>
          ))}
        </select>
      </Field>
      <NumberField
        label="Scale, mm"
        value={round(build.scaleMm, 1)}
        change={(scaleMm) => of.setBuild({ ...build, scaleMm })}
        min={150}
        max={1300}
      />
      <Field label="Tuning" className="col-span-2">
        <select
          className="select w-full"
          value={tuning?.id ?? 'own'}
          onChange={(e) => {
            const t = tunings.find((x) => x.id === e.target.value) ?? usualTuning(build.family, build.size);
            of.setBuild({ ...build, positions: build.positions.map((p, i) => ({ ...p, note: t.notes[i] ?? p.note })) });
          }}
        >
          {!tuning && <option value="own">{notes}</option>}
          {tunings.map((t) => (
            <option key={t.id} value={t.id}>
              {t.name}: {t.notes.join(' ')}
            </option>
          ))}
        </select>
      </Field>
      <NumberField
        label="A4, Hz"
        value={of.a4Hz}
        change={of.setA4}
        min={A4_RANGE_HZ.low}
        max={A4_RANGE_HZ.high}
        step={0.5}
      />
      <Field label="Tuning system" className="col-span-2">
        <select
          className="select w-full"
          value={of.temperament}
          onChange={(e) => of.setTemperament(e.target.value as Temperament)}
        >
          <option value="equal">equal temperament</option>
          <option value="pure">pure, from A</option>
        </select>
      </Field>
    </section>
  );
}
