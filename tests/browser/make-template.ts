import { cpSync, rmSync } from 'node:fs';
import { enterFolder } from '../../scripts/entered';
import { ensureDemo } from '../../scripts/setup.mjs';
import { openDatabase } from '../../server/db/connection';
import temporary from '../support/temporary';
import { FROZEN, TEMPLATE } from './app';

/** Takes the demo data and lets its people in; every worker serves a copy of its own. */
export default async function makeTemplate(): Promise<() => void> {
  const tidy = temporary();
  rmSync(TEMPLATE, { recursive: true, force: true });
  cpSync(ensureDemo(), TEMPLATE, { recursive: true });
  // Tests are led string by string, where every step has a screen of its own; those of the other ways choose them.
  const db = await openDatabase(TEMPLATE);
  await db('person').update({ lead: 'string' });
  // They act as one who may do everything; what others may is a test of its own.
  await db('person').where({ id: 1 }).update({ role: 'coordinator' });
  await db.destroy();
  await enterFolder(TEMPLATE, Date.parse(FROZEN));
  return tidy;
}
