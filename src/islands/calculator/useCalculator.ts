import { useMemo, useState } from 'react';
import { type Build, type Family, speakingLengthMm } from '../../../core/instruments/build';
import { defaultBuild } from '../../../core/instruments/defaults';
import { A4_RANGE_HZ } from '../../../core/pitch/notes';
import type { Temperament } from '../../../core/pitch/tunings';
import { adaptMethod, HOUSE_METHODS } from '../../../core/procedures/method';
import { stringNumbers } from '../../../core/procedures/numbers';
import { compareSlack } from '../../../core/procedures/slackSchools';
import type { Method, StringToFit } from '../../../core/procedures/types';
import { slipMm } from '../../../core/settling/slip';
import { modulusMpa } from '../../../core/strings/materials';
import { compareSets, pullOf } from '../../../core/strings/set';
import { slotAdvice } from '../../../core/strings/strength';
import { beginWith, type KnownSet, type KnownStrings } from './known';

export interface CalculatorProps {
  tag: string | null;
  build: Build;
  method: Method;
  /** The strings to begin with, by position. */
  strings: KnownStrings;
  /** What is on now, to compare with. */
  before: KnownStrings;
  sets: KnownSet[];
  a4Hz: number;
}

/** What is entered in the calculator, and everything that follows from it. */
export function useCalculator(props: CalculatorProps) {
  const [build, setBuild] = useState(props.build);
  const [house, setHouse] = useState(props.method);
  const [strings, setStrings] = useState(props.strings);
  const [before, setBefore] = useState(props.before);
  const [a4Hz, setA4] = useState(props.a4Hz);
  const [temperament, setTemperament] = useState<Temperament>('equal');
  const [number, setNumber] = useState(props.build.positions[0]?.number ?? 1);
  const [slackId, setSlackId] = useState<string | null>(null);

  // Drawn and counted as the parts make it.
  const { method } = useMemo(() => adaptMethod(build, house, 'full-set'), [build, house]);
  const a4 = Number.isFinite(a4Hz) && a4Hz >= A4_RANGE_HZ.low && a4Hz <= A4_RANGE_HZ.high ? a4Hz : 440;

  const whole = useMemo(() => {
    const list = (from: KnownStrings) =>
      build.positions.flatMap((p) => {
        const own = from[p.number];
        return own ? [{ number: p.number, ...own }] : [];
      });
    const tuned = { a4Hz: a4, temperament };
    const compares = Object.keys(before).length > 0;
    return {
      pull: pullOf(build, list(strings), tuned),
      was: compares ? pullOf(build, list(before), tuned) : null,
      compared: compares ? compareSets(build, list(before), list(strings), tuned) : null,
    };
  }, [build, strings, before, a4, temperament]);

  const position =
    build.positions.find((p) => p.number === number) ?? (build.positions[0] as Build['positions'][number]);
  const known = strings[position.number];
  const one = useMemo(() => {
    if (!known) return null;
    const fit: StringToFit = { number: position.number, wound: known.wrap !== null, half: false, ...known };
    const rows = compareSlack(build, method, fit, a4);
    const row = rows.find((r) => r.id === slackId) ?? rows.find((r) => r.isHouse) ?? rows[0];
    if (!row) return null;
    const n = stringNumbers(build, method, position, fit, a4, row.rule);
    return {
      known,
      rows,
      row,
      n,
      slot: position.nutSlotMm ? slotAdvice(position.nutSlotMm, known.gaugeMm) : null,
      /** How far it slips where it goes a semitone flat, mm. */
      slipMm: slipMm({
        cents: 100,
        tensionN: n.tensionN,
        totalLengthMm: speakingLengthMm(build, position) + position.nutToPostMm,
        coreMm: known.coreMm,
        modulusMpa: modulusMpa(known.core),
      }),
    };
  }, [build, method, position, known, a4, slackId]);

  return {
    build,
    setBuild,
    method,
    strings,
    setStrings,
    setBefore,
    a4Hz,
    setA4,
    temperament,
    setTemperament,
    position,
    setNumber,
    setSlackId,
    ...whole,
    pullAt: (n: number) => whole.pull.positions.find((p) => p.number === n) ?? null,
    one,
    /** Another kind of instrument, with strings that suit it. */
    choose: (family: Family, size: string) => {
      const next = defaultBuild(family, size);
      setBuild(next);
      setHouse(HOUSE_METHODS[family]);
      setStrings(beginWith(next, props.sets));
      setBefore({});
      setNumber(next.positions[0]?.number ?? 1);
    },
    /** One string as somebody changes it. */
    setString: (of: number, to: KnownStrings[number]) => setStrings({ ...strings, [of]: to }),
  };
}

export type Calculation = ReturnType<typeof useCalculator>;
