import type { PlanInput } from '../../../server/plan/problem';
import { Field } from '../../ui/Field';

/** Work that no due date brings: asked for by hand. */
export function AskFor({ input }: { input: PlanInput }) {
  return (
    <form data-api="/api/plan/request" className="grid gap-2 mt-1">
      <Field label="Instrument">
        <input name="tag" className="input input-sm" placeholder="tag" required />
      </Field>
      <Field label="Work">
        <select name="kind" className="select select-sm">
          <option value="inspection">inspection</option>
          <option value="service">yearly service</option>
          <option value="refit">strings off and back on, for other work</option>
        </select>
      </Field>
      <Field label="Due by">
        <input
          name="dueOn"
          type="date"
          className="input input-sm"
          min={input.first}
          defaultValue={input.first}
          required
        />
      </Field>
      <Field label="Reason">
        <input name="why" className="input input-sm" minLength={2} required />
      </Field>
      <button type="submit" className="btn btn-sm justify-self-start">
        Add the request
      </button>
    </form>
  );
}
