import { Check } from 'lucide-react';
import { useEffect, useState } from 'react';
import type { FinishEntry } from '../../../contract/bench';
import { count } from '../../../core/count';
import { sayGauge } from '../../../core/manner';
import { plainEntries } from '../../../core/work/entries';
import type { FinishPreview } from '../../../server/bench/preview';
import { post } from '../../ui/post';
import type { Device } from './device';
import type { BenchProps } from './useBench';

/** What must lie on the bench before the first string is slack: strings and where they come from, a spare, tools. */
/** The gauge of a string as envelopes print it, in thousandths of an inch. */
const gaugeOf = (bench: BenchProps, productId: number | null): string => {
  const product = bench.choices.find((c) => c.id === productId);
  return product ? sayGauge(product.gaugeMm) : '';
};

export function Kit({
  bench,
  device,
  start,
  heading,
}: {
  bench: BenchProps;
  device: Device;
  start: () => void;
  heading: React.RefObject<HTMLHeadingElement | null>;
}) {
  const { job, positions } = bench;
  const [preview, setPreview] = useState<FinishPreview | null>(null);
  const [noSpare, setNoSpare] = useState<string[] | null>(null);
  const [ticked, setTicked] = useState<string[]>(() => device.read<string[]>('kit') ?? []);
  useEffect(() => device.write('kit', ticked), [device, ticked]);
  useEffect(() => {
    let current = true;
    const entries = (broken: number): FinishEntry[] =>
      plainEntries(positions, job).map((e) => ({ ...e, broken: e.action === 'fit' ? broken : 0 }));
    const ask = async (broken: number) => {
      const answer = await post<FinishPreview>(`/api/jobs/${job.id}/preview`, { entries: entries(broken) });
      return current && answer.ok ? answer.value : null;
    };
    void ask(0).then(setPreview);
    // A second set at hand: the same once more.
    void ask(1).then((twice) => twice && setNoSpare([...new Set(twice.short.map((s) => noteOf(bench, s.number)))]));
    return () => {
      current = false;
    };
  }, [bench, job, positions]);

  const short = preview?.short ?? [];
  const things = [
    ...(bench.takesTwo ? ['someone to help you hold it'] : []),
    ...(job.procedure?.tools ?? []),
    ...(job.procedure?.consumables ?? []),
  ];
  const toggle = (thing: string) =>
    setTicked(ticked.includes(thing) ? ticked.filter((t) => t !== thing) : [...ticked, thing]);
  const headline =
    short.length > 0
      ? `Before you start: ${count(short.length, 'string is', 'strings are')} not in stock`
      : 'Lay everything out before you slacken a string.';
  return (
    <section className="grid gap-5 content-start max-w-5xl">
      <div>
        <p className="muted text-lg">Kit · {bench.name}</p>
        <h1 ref={heading} tabIndex={-1} className="text-[30px] sm:text-[38px] leading-tight font-bold outline-none">
          {headline}
        </h1>
        {noSpare && short.length === 0 && (
          <p className={`text-[22px] mt-1 ${noSpare.length ? 'text-warning' : 'muted'}`}>
            {noSpare.length === 0
              ? 'There is a spare of every string: take one of each.'
              : `No spare for ${noSpare.join(', ')}, if one breaks while you fit it.`}
          </p>
        )}
      </div>
      <ul className="card-paper px-4 py-1" aria-label="Strings to take">
        {positions
          .filter((p) => job.numbers.includes(p.number))
          .map((p) => {
            const drawn = preview?.drawn.find((d) => d.number === p.number);
            const missing = short.find((s) => s.number === p.number);
            return (
              <li key={p.number} className="quiet-row py-1.5 flex flex-wrap gap-x-4">
                <span className="tag w-16">{noteOf(bench, p.number)}</span>
                <span className="grow">
                  {bench.choices.find((c) => c.id === p.houseProductId)?.name ?? 'no usual string'}
                </span>
                <span className="tag muted">{gaugeOf(bench, p.houseProductId)}</span>
                <span className={missing ? 'text-error font-semibold' : 'muted'}>
                  {missing
                    ? missing.substitutes[0]
                      ? `not in stock; use ${missing.substitutes[0].name}`
                      : 'not in stock'
                    : drawn
                      ? `${drawn.half ? 'half, ' : ''}${drawn.from}`
                      : ''}
                </span>
              </li>
            );
          })}
      </ul>
      {bench.marks && <p>Markings on envelopes or ball ends: {bench.marks}</p>}
      {(preview?.opens.length ?? 0) > 0 && (
        <p>This {preview?.opens.map((o) => `${o.what} ${o.quantity} ${o.name}`).join('; ')}.</p>
      )}
      <fieldset className="flex flex-wrap gap-2">
        <legend className="mb-1">Tools and supplies</legend>
        {things.map((thing) => (
          <label
            key={thing}
            className={`btn min-h-14 text-lg font-normal ${ticked.includes(thing) ? 'btn-primary' : ''}`}
          >
            <input
              type="checkbox"
              className="sr-only"
              checked={ticked.includes(thing)}
              onChange={() => toggle(thing)}
            />
            {ticked.includes(thing) && <Check aria-hidden="true" className="inline size-5 mr-1 align-[-4px]" />}
            {thing}
          </label>
        ))}
      </fieldset>
      <div className="sticky bottom-0 bg-base-100 border-t border-base-300 -mx-7 px-7 py-2.5 flex flex-wrap items-center gap-3">
        <button type="button" className="btn btn-primary min-h-14 text-xl px-6" onClick={start}>
          <kbd className="kbd-key bg-transparent">space</kbd> {short.length > 0 ? 'start anyway' : 'all here: start'}
        </button>
        {short.length > 0 && (
          <span className="muted">If you find strings the stock record does not show, add them when you finish.</span>
        )}
      </div>
    </section>
  );
}

const noteOf = (bench: BenchProps, number: number): string =>
  `${number} ${bench.positions.find((p) => p.number === number)?.note ?? ''}`;
