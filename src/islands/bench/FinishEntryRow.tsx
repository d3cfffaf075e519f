import type { UseFormReturn } from 'react-hook-form';
import type { FinishEntry } from '../../../contract/bench';
import type { BenchPosition } from '../../../server/bench/page';
import type { FinishPreview } from '../../../server/bench/preview';
import type { Fields } from './finishFields';
import type { BenchProps } from './useBench';

/** What happened at one string, and what is true where the shelf does not cover it. */
export function FinishEntryRow({
  form,
  i,
  entry,
  position,
  choices,
  preview,
  change: to,
}: {
  form: UseFormReturn<Fields>;
  /** Its place in the list of entries. */
  i: number;
  entry: FinishEntry;
  position: BenchPosition | undefined;
  choices: BenchProps['choices'];
  preview: FinishPreview | null;
  change: (number: number, to: Partial<FinishEntry>) => void;
}) {
  const from = preview?.drawn.find((d) => d.number === entry.number);
  const short = preview?.short.find((s) => s.number === entry.number);
  const label = `${entry.number} ${position?.note}`;
  const change = (what: Partial<FinishEntry>) => to(entry.number, what);
  return (
    <div className="quiet-row py-1.5 grid items-center gap-x-3 gap-y-1 grid-cols-[5rem_1fr] md:grid-cols-[5rem_10rem_1fr_8.5rem]">
      <span className="tag">{label}</span>
      <select
        className="select min-h-14 text-lg w-full"
        aria-label={`${label}: what happened`}
        {...form.register(`entries.${i}.action`)}
      >
        <option value="fit">new string</option>
        <option value="kept">old string kept</option>
        <option value="left-off">left off</option>
      </select>
      {entry.action === 'fit' ? (
        <span className="col-span-2 md:col-span-1">
          <select
            className="select min-h-14 text-lg w-full"
            aria-label={`${label}: which string`}
            value={entry.productId ?? ''}
            onChange={(e) =>
              change({
                productId: e.target.value ? Number(e.target.value) : null,
                found: false,
              })
            }
          >
            <option value="">choose</option>
            {choices.map((c) => (
              <option key={c.id} value={c.id}>
                {c.name}
              </option>
            ))}
          </select>
          <span className={`block text-base ${short ? 'text-error font-semibold' : 'muted'}`}>
            {short
              ? 'not in stock'
              : entry.found
                ? 'added at the bench'
                : from
                  ? `${from.half ? 'half-length, ' : ''}from ${from.from}`
                  : ' '}
          </span>
        </span>
      ) : (
        <span className="muted">{entry.action === 'kept' ? 'unchanged' : 'no string fitted'}</span>
      )}
      {entry.action === 'fit' && (
        <label className="flex items-center gap-2 text-lg">
          <span>broke</span>
          <input
            type="number"
            min={0}
            max={5}
            className="input min-h-14 w-20 text-lg"
            aria-label={`${label}: strings broken while fitting`}
            {...form.register(`entries.${i}.broken`, { valueAsNumber: true })}
          />
        </label>
      )}
      {short && (
        <fieldset className="col-span-2 md:col-span-4 flex flex-wrap gap-2 pb-2">
          <legend className="text-lg">{short.name} is not in stock. What happened?</legend>
          {short.substitutes.map((s) => (
            <button
              key={s.productId}
              type="button"
              className="btn min-h-14 text-lg font-normal"
              onClick={() => change({ productId: s.productId, found: false })}
            >
              {s.name} fitted ({s.tensionChange >= 0 ? '+' : ''}
              {(s.tensionChange * 100).toFixed(0)} % tension)
            </button>
          ))}
          <button type="button" className="btn min-h-14 text-lg font-normal" onClick={() => change({ found: true })}>
            Found one on the shelf: add it
          </button>
          <button type="button" className="btn min-h-14 text-lg font-normal" onClick={() => change({ action: 'kept' })}>
            Old string kept
          </button>
          <button
            type="button"
            className="btn min-h-14 text-lg font-normal"
            onClick={() => change({ action: 'left-off' })}
          >
            Left off
          </button>
        </fieldset>
      )}
    </div>
  );
}
