import { useForm } from 'react-hook-form';
import { Field } from '../../ui/Field';
import { Told } from '../../ui/Told';
import { useCommand } from '../../ui/useCommand';

/** What a supplier answered to an order on paper: its number, the day, and how many it will send of each. */
export function ConfirmOrder(p: {
  id: number;
  version: number;
  theirNumber: string;
  expectedOn: string;
  lines: { productId: number; name: string; quantity: number }[];
}) {
  const { register, handleSubmit } = useForm({
    defaultValues: {
      theirNumber: p.theirNumber,
      expectedOn: p.expectedOn,
      lines: p.lines.map(({ productId, quantity }) => ({ productId, quantity: String(quantity) })),
    },
  });
  const { run, busy, says } = useCommand();
  return (
    <form
      className="grid gap-2 py-2"
      onSubmit={handleSubmit(async (answered) => {
        if (await run(`/api/orders/${p.id}/confirm`, { expectedVersion: p.version, ...answered })) location.reload();
      })}
    >
      <div className="flex flex-wrap gap-3">
        <Field label="Supplier’s order number">
          <input className="input input-sm" maxLength={60} {...register('theirNumber')} />
        </Field>
        <Field label="Expected delivery date">
          <input type="date" className="input input-sm" required {...register('expectedOn')} />
        </Field>
      </div>
      {p.lines.map((l, i) => (
        <label key={l.productId} className="flex justify-between items-center gap-3">
          <span>{l.name}</span>
          <input
            type="number"
            min={0}
            className="input input-sm w-24"
            aria-label={`${l.name}: how many they will send`}
            required
            {...register(`lines.${i}.quantity`)}
          />
        </label>
      ))}
      <Told says={says} />
      <button type="submit" className="btn btn-sm justify-self-start" disabled={busy}>
        Save the confirmation
      </button>
    </form>
  );
}
