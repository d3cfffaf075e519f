import type { PlanInput } from '../../../server/plan/problem';

/** Work that no due date brings: asked for by hand. */
export function AskFor({ input }: { input: PlanInput }) {
  return (
    <form data-api="/api/plan/request" className="grid gap-2 mt-1">
      <label className="grid gap-0.5">
        <span className="muted text-sm">Instrument</span>
        <input name="tag" className="input input-sm" placeholder="tag" required />
      </label>
      <label className="grid gap-0.5">
        <span className="muted text-sm">What</span>
        <select name="kind" className="select select-sm">
          <option value="inspection">a look at it</option>
          <option value="service">its yearly service</option>
          <option value="refit">strings off and on again, for other work</option>
        </select>
      </label>
      <label className="grid gap-0.5">
        <span className="muted text-sm">By</span>
        <input
          name="dueOn"
          type="date"
          className="input input-sm"
          min={input.first}
          defaultValue={input.first}
          required
        />
      </label>
      <label className="grid gap-0.5">
        <span className="muted text-sm">Why</span>
        <input name="why" className="input input-sm" minLength={2} required />
      </label>
      <button type="submit" className="btn btn-sm justify-self-start">
        Ask for it
      </button>
    </form>
  );
}
