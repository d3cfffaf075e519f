import type { ROLES } from './people';

export type Role = (typeof ROLES)[number];

/** Whoever they are; what is theirs; nobody of that role. */
type May = 'any' | 'own';
type Rule = Partial<Record<Role, May>>;

const coordinator: Rule = { coordinator: 'any' };
const technician: Rule = { coordinator: 'any', technician: 'any' };
const helper: Rule = { coordinator: 'any', technician: 'any', helper: 'any' };
const everybody: Rule = { coordinator: 'any', technician: 'any', helper: 'any', teacher: 'any' };
/** Of themselves; coordinators of all. */
const ownHours: Rule = { coordinator: 'any', technician: 'own' };

/**
 * Who may change what, by the name under which a change stands in the audit. Every change asks this table where it is
 * made; the screens ask it before they offer something.
 */
export const CHANGES = {
  // Theirs, whoever they are.
  'person.desk': everybody,
  'person.horizon': everybody,
  'person.lead': everybody,
  'account.password': everybody,
  'account.pin': everybody,
  'account.session-end': everybody,
  // Signing in is no change, and stands in the record of who did what all the same.
  'session.begin': everybody,
  'report.add': everybody,
  'wrong.said': everybody,
  // By the code on a label, without signing in: it changes nothing until somebody of the programme has taken it up.
  'label.said': {},
  // By the server itself, at night.
  'audit.ended': {},

  // The bench: what helpers are signed off for stands in the ladder, and is asked where a job is opened.
  'job.open': helper,
  'job.answer': helper,
  'job.cancel': helper,
  'job.depart': helper,
  'job.finish': helper,
  'job.look': helper,
  'job.as-usual': helper,
  'batch.open': helper,
  'record.note': helper,
  'record.supervised': technician,
  'visit.done': helper,
  'photo.add': helper,
  'practice.record': helper,
  'instrument.fact': helper,
  'fault.record': helper,
  'stock.transfer': helper,
  'stock.open': helper,
  'stock.halve': helper,

  // Of what stands in their own session today.
  'plan.aside': { coordinator: 'any', technician: 'any', helper: 'own' },

  'label.taken': helper,
  'label.nothing': technician,
  'label.end': technician,

  'job.undo': technician,
  'record.past': technician,
  'photo.remove': technician,
  'fault.away': technician,
  'fault.close': technician,
  'fault.room': technician,
  'instrument.add': technician,
  'instrument.build': technician,
  'instrument.busy': technician,
  'instrument.back': technician,
  'instrument.not-busy': technician,
  'instrument.details': technician,
  'instrument.house-strings': technician,
  'instrument.many': technician,
  'instrument.many-undone': technician,
  'instrument.player': technician,
  'interval.save': technician,
  'interval.withdraw': technician,
  'method.save': technician,
  'place.climate': technician,
  'place.bench-space': technician,
  'place.last-way': technician,
  'plan.publish': technician,
  'plan.propose': technician,
  'plan.dismiss': technician,
  'plan.request': technician,
  'plan.request-withdrawn': technician,
  'class.add': technician,
  'class.remove': technician,
  'stock.back': technician,
  'stock.count': technician,
  'stock.opening': technician,
  'stock.receive': technician,
  'stock.scrap': technician,
  'stock.take-back': technician,
  'order.add': technician,
  'order.cancel': technician,
  'order.close': technician,
  'order.confirm': technician,
  'order.draft': technician,
  'order.edit': technician,
  'order.postpone': technician,
  'order.receive': technician,
  'order.send': technician,
  'product.add-consumable': technician,
  'product.add-hybrid': technician,
  'product.add-set': technician,
  'product.add-single': technician,
  'product.add-whole-set': technician,
  'product.edit': technician,
  'product.source': technician,
  'product.substitutes': technician,
  'product.usual-set': technician,
  'supplier.add': technician,
  'supplier.edit': technician,
  'feed.make': technician,
  'feed.end': technician,

  'availability.add': ownHours,
  'availability.away': ownHours,
  'availability.remove': ownHours,
  'availability.once': ownHours,
  'availability.swap': ownHours,

  'account.code': coordinator,
  'account.close': coordinator,
  'account.district': coordinator,
  'device.enrol': coordinator,
  'device.end': coordinator,
  'calendar.import': coordinator,
  'calendar.remove': coordinator,
  'concert.add': coordinator,
  'concert.remove': coordinator,
  'holiday.add': coordinator,
  'holiday.remove': coordinator,
  'intake.add': coordinator,
  'intake.apply': coordinator,
  'intake.decide': coordinator,
  'intake.drop': coordinator,
  'intake.undo': coordinator,
  'person.add': coordinator,
  'person.edit': coordinator,
  'person.retire': coordinator,
  'place.add': coordinator,
  'place.edit': coordinator,
  'place.retire': coordinator,
  'plan.weights': coordinator,
  'programme.edit': coordinator,
  'programme.trust': coordinator,
  'subject.erase': coordinator,
  'backup.take': coordinator,
  'sign-off.set': coordinator,
  'travel.set': coordinator,
} satisfies Record<string, Rule>;

export type ChangeName = keyof typeof CHANGES;

/** What whoever stands before an instrument may do by the code on its label. */
export const isByLabel = (name: ChangeName): boolean => name === 'label.said';

/** Whether somebody of a role may change this at all, their own or anybody's. */
export const mayChange = (role: Role, name: ChangeName): May | null => (CHANGES[name] as Rule)[role] ?? null;

/** A page or endpoint: who may open it, or `anybody`, signed in or not. */
type Open = readonly Role[] | 'anybody';
const ALL: readonly Role[] = ['coordinator', 'technician', 'helper', 'teacher'];
const BENCH: readonly Role[] = ['coordinator', 'technician', 'helper'];
const DESK: readonly Role[] = ['coordinator', 'technician'];
const OFFICE: readonly Role[] = ['coordinator'];

/**
 * Who may open which page or endpoint, by Astro's name of the route. What an endpoint changes is asked of CHANGES as
 * well; here stands who is let to it at all.
 */
export const ROUTES: Record<string, Open> = {
  '/404': 'anybody',
  '/500': 'anybody',
  '/not-yours': 'anybody',
  '/alive': 'anybody',
  '/health': 'anybody',
  // To whoever knows its word.
  '/metrics': 'anybody',
  '/welcome': 'anybody',
  '/sign-in': 'anybody',
  // Where a district's own sign-in begins, and where it comes back to.
  '/district/leave': 'anybody',
  '/district/back': 'anybody',
  '/code': 'anybody',
  '/api/welcome': 'anybody',
  '/api/welcome/bring': 'anybody',
  '/api/sign/[action]': 'anybody',
  // By an address that nobody can guess.
  '/feeds/[token].ics': 'anybody',
  '/r/[token]': 'anybody',

  '/': ALL,
  '/me': ALL,
  '/fleet': ALL,
  '/jump': ALL,
  '/report': ALL,
  '/teaching': ALL,
  '/instruments/[tag]': ALL,
  '/instruments/[tag]/note': ALL,
  '/photos/[hash]': ALL,
  '/api/account/[action]': ALL,
  '/api/find': ALL,
  '/api/live': ALL,
  '/api/fleet': ALL,
  '/api/people/desk': ALL,
  '/api/people/horizon': ALL,
  '/api/people/lead': ALL,
  '/api/people/me': ALL,

  '/bench/[id]': BENCH,
  '/bench/batch/[id]': BENCH,
  '/calculator': BENCH,
  '/faults': BENCH,
  '/faults/cases/[id]': BENCH,
  '/instruments/[tag]/label': BENCH,
  '/methods': BENCH,
  '/methods/[family]': BENCH,
  '/methods/card/[family]': BENCH,
  '/methods/practice/[family]': BENCH,
  '/plan': BENCH,
  '/plan/sheet': BENCH,
  '/plan/learning': BENCH,
  '/stock': BENCH,
  '/stock/kit': BENCH,
  '/stock/products/[id]': BENCH,
  '/api/batches': BENCH,
  '/api/labels/[action]': BENCH,
  '/api/faults': BENCH,
  '/api/instruments/[tag]/facts': BENCH,
  '/api/jobs': BENCH,
  '/api/jobs/as-usual': BENCH,
  '/api/jobs/[id]/answers': BENCH,
  '/api/jobs/[id]/cancel': BENCH,
  '/api/jobs/[id]/depart': BENCH,
  '/api/jobs/[id]/finish': BENCH,
  '/api/jobs/[id]/look': BENCH,
  '/api/jobs/[id]/preview': BENCH,
  '/api/people/practised': BENCH,
  '/api/photos': BENCH,
  '/api/plan/aside': BENCH,
  '/api/records/[id]/notes': BENCH,
  '/api/records/[id]/stood-by': BENCH,
  '/api/stock/[action]': BENCH,
  '/api/visits/[id]/done': BENCH,

  '/instruments/[tag]/build': DESK,
  '/instruments/labels': DESK,
  '/instruments/labels.pdf': DESK,
  '/instruments/new': DESK,
  '/instruments/since': DESK,
  '/methods/intervals': DESK,
  '/plan/people': DESK,
  '/stock/count': DESK,
  '/stock/labels': DESK,
  '/stock/new': DESK,
  '/stock/opening': DESK,
  '/stock/orders': DESK,
  '/stock/orders/[id]': DESK,
  '/stock/orders/[id]/form': DESK,
  '/stock/usual': DESK,
  '/api/deliveries/[id]/receive': DESK,
  '/api/export/[file]': DESK,
  '/api/export/orders/[id].csv': DESK,
  '/api/faults/[id]/away': DESK,
  '/api/faults/[id]/close': DESK,
  '/api/faults/[id]/room': DESK,
  '/api/fleet/many': DESK,
  '/api/fleet/undo': DESK,
  '/api/instruments': DESK,
  '/api/instruments/[tag]/build': DESK,
  '/api/instruments/[tag]/details': DESK,
  '/api/instruments/[tag]/player': DESK,
  '/api/instruments/[tag]/strings': DESK,
  '/api/intervals': DESK,
  '/api/intervals/preview': DESK,
  '/api/intervals/withdraw': DESK,
  '/api/methods/[family]': DESK,
  '/api/methods/restore/[family]': DESK,
  '/api/orders': DESK,
  '/api/orders/add': DESK,
  '/api/orders/[id]/[action]': DESK,
  '/api/photos/[id]/remove': DESK,
  '/api/places/[id]/climate': DESK,
  '/api/plan/[action]': DESK,
  '/api/products/[action]': DESK,
  '/api/products/[id]/edit': DESK,
  '/api/products/suppliers/[id]/edit': DESK,
  '/api/records/[id]/undo': DESK,
  '/api/records/past': DESK,
  '/api/stock/receive': DESK,

  '/programme': OFFICE,
  '/programme/audit': OFFICE,
  '/programme/backups': OFFICE,
  '/programme/names': OFFICE,
  '/programme/import': OFFICE,
  '/programme/import/[id]': OFFICE,
  '/programme/take': OFFICE,
  '/api/audit/[file]': OFFICE,
  '/api/intake': OFFICE,
  '/api/intake/[id]': OFFICE,
  '/api/intake/[id]/[action]': OFFICE,
  '/api/plan/calendar-draft': OFFICE,
  '/api/programme': OFFICE,
  '/api/programme/[action]': OFFICE,
  '/api/programme/people': OFFICE,
  '/api/programme/people/[id]/edit': OFFICE,
  '/api/programme/people/[id]/retire': OFFICE,
  '/api/programme/places': OFFICE,
  '/api/programme/places/[id]/edit': OFFICE,
  '/api/programme/places/[id]/retire': OFFICE,
};

/** Whether somebody of a role may open a route; nobody may open one that the table does not know. */
export const mayOpen = (role: Role | null, route: string): boolean => {
  const open = ROUTES[route];
  return open === 'anybody' || (role !== null && open?.includes(role) === true);
};

const patterns = Object.keys(ROUTES)
  .map((route) => ({
    route,
    fixed: !route.includes('['),
    pattern: new RegExp(`^${route.replace(/\[\w+\]/g, '[^/]+')}$`),
  }))
  // A fixed address is meant before one with a variable part.
  .sort((a, b) => Number(b.fixed) - Number(a.fixed));

/** Whether somebody of a role may open an address of this programme; what is not in the table is not judged here. */
export function mayGo(role: Role, href: string): boolean {
  const path = (href.split(/[?#]/)[0] ?? '/').replace(/(.)\/$/, '$1');
  const known = patterns.find((p) => p.pattern.test(path));
  if (known === undefined) return true;
  // What is done to the shelf has rules of its own, by what it is.
  const change = /^\/api\/(stock)\/([\w-]+)$/.exec(path)?.slice(1).join('.') ?? '';
  if (Object.hasOwn(CHANGES, change) && mayChange(role, change as ChangeName) === null) return false;
  return mayOpen(role, known.route);
}
