import type { Knex } from 'knex';
import first from './0001-first';
import trade from './0002-trade';
import retunes from './0003-retunes';
import batches from './0004-batches';
import stock from './0005-stock';
import plan from './0006-plan';
import wholePlan from './0007-whole-plan';
import standing from './0008-standing';
import work from './0009-work';
import shifts from './0010-shifts';
import speed from './0011-speed';
import bounds from './0012-bounds';
import answers from './0013-answers';
import lead from './0014-lead';
import intervals from './0015-intervals';
import checks from './0016-checks';
import asFound from './0017-as-found';
import practice from './0018-practice';
import smallParts from './0019-small-parts';
import manage from './0020-manage';
import intake from './0021-intake';
import find from './0022-find';
import suppliers from './0023-suppliers';
import manner from './0024-manner';
import accounts from './0025-accounts';
import trust from './0026-trust';
import weeks from './0027-weeks';
import supervisors from './0028-supervisors';
import lastWay from './0029-last-way';
import twoPeople from './0030-two-people';
import done from './0031-done';
import firstSeen from './0032-first-seen';
import touched from './0033-touched';
import reasons from './0034-reasons';
import named from './0035-named';
import facts from './0036-facts';
import late from './0037-late';
import despite from './0038-despite';

/** The schema's history, in order. A migration that has been released is never changed; a further one follows it. */
export const MIGRATIONS: Record<string, Knex.Migration> = {
  '0001-first': first,
  '0002-trade': trade,
  '0003-retunes': retunes,
  '0004-batches': batches,
  '0005-stock': stock,
  '0006-plan': plan,
  '0007-whole-plan': wholePlan,
  '0008-standing': standing,
  '0009-work': work,
  '0010-shifts': shifts,
  '0011-speed': speed,
  '0012-bounds': bounds,
  '0013-answers': answers,
  '0014-lead': lead,
  '0015-intervals': intervals,
  '0016-checks': checks,
  '0017-as-found': asFound,
  '0018-practice': practice,
  '0019-small-parts': smallParts,
  '0020-manage': manage,
  '0021-intake': intake,
  '0022-find': find,
  '0023-suppliers': suppliers,
  '0024-manner': manner,
  '0025-accounts': accounts,
  '0026-trust': trust,
  '0027-weeks': weeks,
  '0028-supervisors': supervisors,
  '0029-last-way': lastWay,
  '0030-two-people': twoPeople,
  '0031-done': done,
  '0032-first-seen': firstSeen,
  '0033-touched': touched,
  '0034-reasons': reasons,
  '0035-named': named,
  '0036-facts': facts,
  '0037-late': late,
  '0038-despite': despite,
};
