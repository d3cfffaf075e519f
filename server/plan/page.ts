import type { Knex } from 'knex';
import type { LocalDate } from '../../core/dates';
import { untilChanged } from '../db/memo';
import { openProposal, type Proposal } from './night';
import { type PlanInput, planInput } from './problem';

/** What the page of the plan is made from. */
export interface PlanPage {
  input: PlanInput;
  proposal: Proposal | null;
}

const MINUTE_MS = 60_000;

/**
 * What the page of the plan is made from, as JSON that may stand in a page as it is. In a large programme it is long: it
 * is written where it is read, and stays for the minute while nothing changes.
 */
export async function planPage(db: Knex, at: { today: LocalDate; now: number }): Promise<string> {
  const now = Math.floor(at.now / MINUTE_MS) * MINUTE_MS;
  return untilChanged(db, 'plan-page', `${at.today}/${now}`, async () => {
    const input = await planInput(db, { today: at.today, now });
    const page: PlanPage = { input, proposal: await openProposal(db, input.planId) };
    return JSON.stringify(page).replaceAll('<', '\\u003c');
  });
}
