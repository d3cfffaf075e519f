import type { UseFormRegisterReturn, UseFormReturn } from 'react-hook-form';
import { plural } from '../../../core/count';
import { SMALL_PART_NAMES } from '../../../core/parts/smallParts';
import { FATE_NAMES, type PartFate } from '../../../core/procedures/types';
import type { FinishPreview } from '../../../server/bench/preview';
import { type Fields, KNOWN, WHOLE } from './finishFields';
import type { BenchProps } from './useBench';

type Form = UseFormReturn<Fields>;
const partName = (part: string, n: number) => (n === 1 || part.endsWith('s') ? part : `${part}s`);

/** What is left over of what was opened, and goes back unless it is binned. */
export function LeftOver({ form, leftovers }: { form: Form; leftovers: FinishPreview['leftovers'] }) {
  return (
    <fieldset className="card-paper px-4 pt-8 pb-1 mt-3 relative">
      <legend className="font-bold absolute top-1.5">Left over, back to stock</legend>
      {leftovers.map((l) => (
        <label key={l.key} className="py-1.5 flex items-center gap-3 min-h-14">
          <span className="grow">
            {l.quantity} {l.form === 'half' ? plural(l.quantity, 'half', 'halves') : plural(l.quantity, 'string')}:{' '}
            {l.name}
          </span>
          <span className="text-lg muted flex items-center gap-2">
            <input type="checkbox" className="checkbox" value={l.key} {...form.register('discard')} /> throw away
            instead
          </span>
        </label>
      ))}
    </fieldset>
  );
}

/** Pins, washers and springs, counted before it goes back. */
export function CountedParts({
  form,
  parts,
  counted,
}: {
  form: Form;
  parts: readonly PartFate[];
  counted: Fields['counted'];
}) {
  return (
    <fieldset className="card-paper px-4 pt-9 pb-2 mt-3 relative flex flex-wrap gap-x-6 gap-y-2">
      <legend className="font-bold absolute top-1.5">Count the parts back</legend>
      {parts.map((p, i) => (
        <label key={`${p.part}/${p.fate}`} className="flex items-center gap-2 text-lg">
          <input
            type="number"
            min={0}
            max={99}
            className={`input min-h-14 w-20 text-lg ${counted[i] !== p.count ? 'input-error' : ''}`}
            {...form.register(`counted.${i}`, KNOWN)}
          />
          <span>
            of {p.count} {partName(p.part, p.count)}
            <span className="muted block text-base">{FATE_NAMES[p.fate]}</span>
          </span>
        </label>
      ))}
      {parts.some((p, i) => counted[i] !== p.count) && (
        <p className="basis-full text-error text-lg" role="status">
          The count does not match: check the bench, the floor and inside before it goes back. The record keeps this
          count.
        </p>
      )}
    </fieldset>
  );
}

/** Small parts of the shelf that were put in anew, or saved. */
export function SmallPartsUsed({ form, small }: { form: Form; small: BenchProps['small'] }) {
  return (
    <fieldset className="card-paper px-4 pt-9 pb-2 mt-3 relative flex flex-wrap gap-x-6 gap-y-2">
      <legend className="font-bold absolute top-1.5">Pins and spacers, if any were replaced</legend>
      {small.map(({ part, saved }, i) => (
        <span key={part} className="contents">
          <Count label={`new ${SMALL_PART_NAMES[part].many} fitted`} field={form.register(`small.${i}.used`, WHOLE)} />
          {saved && (
            <Count label={`${SMALL_PART_NAMES[part].many} saved`} field={form.register(`small.${i}.saved`, WHOLE)} />
          )}
        </span>
      ))}
    </fieldset>
  );
}

function Count({ label, field }: { label: string; field: UseFormRegisterReturn }) {
  return (
    <label className="flex items-center gap-2 text-lg">
      <input type="number" min={0} max={48} className="input min-h-14 w-20 text-lg" {...field} />
      {label}
    </label>
  );
}
