import { countWord, plural, sayList } from '../count';
import { capital } from '../sentence';
import type { OpeningPlan, OpeningProblem } from './opening';

/**
 * What a plan does, in sentences: what to open and what is left of it, what halves cover, what is taken instead, what
 * has no spare, what is short.
 *
 * @param nameOf a product's name; `short` the last part of it, such as the note of a string
 */
export function explainOpening(
  problem: OpeningProblem,
  plan: OpeningPlan,
  nameOf: (productId: string) => string,
  shortOf: (productId: string) => string,
): string[] {
  const lines: string[] = [];
  const supply = (id: string) => problem.supplies.find((s) => s.id === id);
  const opened = new Map<string, number>();
  for (const o of plan.opens) {
    const productId = supply(o.supplyId)?.productId ?? '';
    opened.set(productId, (opened.get(productId) ?? 0) + o.count);
  }
  for (const [productId, count] of opened) {
    const items = new Set((problem.contents.get(productId) ?? []).map((i) => i.productId));
    const left = plan.leftovers.filter((l) => l.form === 'single' && items.has(l.productId));
    const rest = left.map((l) =>
      l.count > 1 ? `${countWord(l.count)} ${shortOf(l.productId)}` : shortOf(l.productId),
    );
    const count_ = left.reduce((sum, l) => sum + l.count, 0);
    lines.push(
      `Open ${countWord(count)} ${nameOf(productId)}; ${
        left.length === 0
          ? 'all its strings are used'
          : `${sayList(rest)} ${plural(count_, 'is', 'are')} left for stock`
      }.`,
    );
  }
  const loose = plan.uses.filter((u) => u.amount === 'whole' && supply(u.supplyId)?.form === 'single');
  const looseCount = loose.reduce((sum, u) => sum + u.count, 0);
  if (looseCount > 0)
    lines.push(
      `${capital(countWord(looseCount))} loose ${plural(looseCount, 'string is used', 'strings are used')} first: ${sayList([...new Set(loose.map((u) => shortOf(u.productId)))])}.`,
    );
  const halvesUsed = plan.uses.filter((u) => u.amount === 'half').reduce((sum, u) => sum + u.count, 0);
  if (halvesUsed > 0) {
    const cut = plan.halves.reduce((sum, h) => sum + h.count, 0);
    const left = plan.leftovers.filter((l) => l.form === 'half').reduce((sum, l) => sum + l.count, 0);
    const from =
      cut === 0
        ? 'all from half-length strings in stock'
        : `${countWord(cut)} ${plural(cut, 'string is', 'strings are')} cut in half`;
    lines.push(
      `${capital(countWord(halvesUsed))} ${halvesUsed === 1 ? 'half-length string is enough' : 'half-length strings are enough'}: ${from}${left ? `; ${countWord(left)} ${plural(left, 'half is', 'halves are')} left` : ''}.`,
    );
  }
  for (const need of problem.needs) {
    const wanted = need.choices[0]?.productId;
    for (const u of plan.uses.filter((x) => x.needId === need.id && x.productId !== wanted))
      lines.push(`Use ${nameOf(u.productId)} instead of ${nameOf(wanted ?? '')}: ${countWord(u.count)}.`);
  }
  for (const s of plan.short) {
    const need = problem.needs.find((n) => n.id === s.needId);
    lines.push(`Missing: ${countWord(s.count)} ${nameOf(need?.choices[0]?.productId ?? '')}. No stock, no substitute.`);
  }
  if (plan.spareShort.length > 0) {
    // A set none of whose strings has a spare is said once.
    let left = [...new Set(plan.spareShort)];
    const said: string[] = [];
    for (const [setId, items] of problem.contents) {
      if (!items.every((i) => left.includes(i.productId))) continue;
      said.push(nameOf(setId));
      left = left.filter((id) => !items.some((i) => i.productId === id));
    }
    lines.push(`No spare for ${sayList([...said, ...left.map(nameOf)])}, if one breaks while fitting.`);
  }
  return lines;
}
