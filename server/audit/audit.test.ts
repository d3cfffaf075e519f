import { join } from 'node:path';
import Database from 'better-sqlite3';
import { expect, it } from 'vitest';
import { AuditShape } from '../../contract/people';
import { CHANGES } from '../../contract/permissions';
import { acting, NOW, smallProgramme } from '../../tests/support/small';
import { folderOf } from '../db/connection';
import { must } from '../db/must';
import { AUDIT_DAYS, tidy } from '../db/tidy';
import { changesOf } from '../fleet/changes';
import { editDetails } from '../fleet/details';
import { reportTrouble } from '../fleet/report';
import { editPerson, retirePerson } from '../programme/manage';
import { anchorOf } from './anchor';
import { readChain } from './entries';
import { auditLines, auditPage } from './list';
import { eraseSubject, mentions, namesFile, WRITTEN } from './subject';
import { CHANGE_WORDS } from './words';

async function all<T>(from: AsyncGenerator<T>): Promise<T[]> {
  const found: T[] = [];
  for await (const one of from) found.push(one);
  return found;
}
const ask = (q: Record<string, unknown>) => AuditShape.parse(q);

async function lived() {
  const { db } = await smallProgramme();
  const row = await db('instrument').where({ tag: 'VN-1' }).first();
  await editDetails(db, { ...acting(), from: '10.0.0.5' }, {
    tag: 'VN-1',
    newTag: 'VN-1',
    placeId: 1,
    maker: '',
    model: '',
    serial: '',
    expectedVersion: row?.version as number,
    holder: 'Åsa Lind-Quist, 6 C',
    note: 'Asks for ÅSA LIND-QUIST’s case',
  } as never);
  await reportTrouble(db, acting(2), { tag: 'VN-1', kind: 'dull', numbers: [], text: 'says Åsa Lind-Quist' });
  return db;
}

it('an entry says who, what, from where, and what was otherwise before', async () => {
  const db = await lived();
  const { entries, all: n } = await auditPage(db, ask({ tag: 'vn-1', what: 'instrument.details' }), 'UTC', 10);
  expect(n).toBe(1);
  expect(entries[0]).toMatchObject({
    by: 'Ann Ex',
    says: 'changed an instrument’s details',
    called: 'VN-1',
    from: '10.0.0.5',
  });
  expect(entries[0]?.changed).toContainEqual(['held by', 'class set', 'Åsa Lind-Quist, 6 C']);
  expect((await auditPage(db, ask({ who: '2' }), 'UTC', 10)).entries.map((e) => e.action)).toEqual(['report.add']);
  const day = new Date(NOW).toISOString().slice(0, 10);
  expect((await auditPage(db, ask({ from: day, to: day }), 'UTC', 1000)).all).toBeGreaterThan(5);
  expect((await auditPage(db, ask({ to: '2020-01-01' }), 'UTC', 10)).all).toBe(0);
  expect((await all(auditLines(db, ask({ who: 2 }), 'UTC'))).map((l) => JSON.parse(l).action)).toEqual(['report.add']);
  for (const name of Object.keys(CHANGES)) expect(CHANGE_WORDS).toHaveProperty([name]);
});

it('whatever is changed, taken out or put in between past the programme shows; what went for its age does not', async () => {
  const db = await lived();
  const before = await readChain(db);
  expect(before.brokenAt).toBeNull();
  const ids: number[] = await db('audit').orderBy('id').pluck('id');
  const [oldest, , third, fourth] = ids as [number, number, number, number];
  // Each of these in a copy that is put back.
  const tampering: [string, () => Promise<unknown>][] = [
    ['what was said', () => db('audit').where({ id: third }).update({ detail: '{"tag":"UK-1"}' })],
    ['who', () => db('audit').where({ id: third }).update({ person_id: 2 })],
    ['when', () => db('audit').where({ id: third }).update({ at: 1 })],
    ['from where', () => db('audit').where({ id: third }).update({ from_where: '10.9.9.9' })],
    ['one taken out', () => db('audit').where({ id: third }).del()],
    ['its contents erased with another hash', () => db('audit').where({ id: third }).update({ detail_hash: 'x' })],
  ];
  for (const [what, tamper] of tampering) {
    const row = await db('audit').where({ id: third }).first();
    await tamper();
    expect([third, fourth], what).toContain((await readChain(db)).brokenAt);
    await db('audit').where({ id: third }).del();
    await db('audit').insert(row as never);
    expect(await readChain(db), what).toEqual(before);
  }
  // The oldest do not go by themselves.
  const kept = await db('audit').whereIn('id', [oldest, third]);
  await db('audit').where({ id: oldest }).del();
  expect((await readChain(db)).brokenAt).toBe(ids[1]);
  await db('audit').insert(kept.find((row) => row.id === oldest) as never);

  // What is taken off the end shows by a copy that was made before.
  const file = new Database(join(folderOf(db), 'arvick.sqlite'));
  const anchor = { ...must(anchorOf(file) ?? undefined), at: NOW };
  file.close();
  expect(await readChain(db, [anchor])).toMatchObject({ brokenAt: null, lostSince: null });
  const last = must(ids.at(-1));
  const end = await db('audit').where({ id: last }).first();
  await db('audit').where({ id: last }).del();
  expect(await readChain(db)).toMatchObject({ brokenAt: null });
  expect(await readChain(db, [anchor])).toMatchObject({ lostSince: NOW });
  await db('audit').insert(end as never);

  // For their age all of them go, and one entry says so.
  const { audit } = await tidy(db, NOW + (AUDIT_DAYS + 2) * 864e5);
  expect(audit).toBe(ids.length);
  expect(await readChain(db, [anchor])).toMatchObject({ brokenAt: null, lostSince: null, entries: 1 });

  // Whatever somebody wrote into an entry, the page of the log can be read.
  await db('audit').update({ changed: '[]', detail: '{' });
  expect((await auditPage(db, ask({ what: 'all' }), 'UTC', 10)).entries[0]?.detail[0]).toContain('altered');
});

it('a name is found in whatever letters, taken along, and erased everywhere; the work and the chain stay', async () => {
  const db = await lived();
  const found = await all(mentions(db, 'åsa lind-quist'));
  expect(new Set(found.map((m) => `${m.table}.${m.column}`))).toEqual(
    new Set(['instrument.holder', 'instrument.note', 'report.text', 'audit.detail', 'audit.changed']),
  );
  const file = JSON.parse((await all(namesFile(db, 'Åsa Lind-Quist'))).join(''));
  expect(file.found).toEqual(await all(mentions(db, 'Åsa Lind-Quist')));
  await expect(eraseSubject(db, acting(), { name: 'Ås', initials: true })).rejects.toThrow(/three letters/);
  await eraseSubject(db, acting(), { name: 'Åsa Lind-Quist', initials: true });
  expect(await all(mentions(db, 'Åsa Lind-Quist'))).toEqual([]);
  expect(await db('instrument').where({ tag: 'VN-1' }).first()).toMatchObject({ holder: 'ÅL, 6 C' });
  expect((await db('instrument_state').where({ tag: 'VN-1' }).first())?.holder).toBe('ÅL, 6 C');
  expect(JSON.stringify(await db('idempotency'))).not.toMatch(/lind-quist/i);
  expect(await db('report')).toHaveLength(1);
  const id = (await db('instrument').where({ tag: 'VN-1' }).first('id'))?.id as number;
  expect(await changesOf(db, id, 'UTC')).toContainEqual({
    on: '2026-03-10',
    by: 'Ann Ex',
    says: 'details, since erased',
  });
  expect(await readChain(db)).toMatchObject({ brokenAt: null });
  expect((await readChain(db)).erased).toBeGreaterThan(0);
  await expect(eraseSubject(db, acting(), { name: 'Åsa Lind-Quist', initials: true })).rejects.toThrow(/not in this/);
});

it('somebody who works here keeps a name until they have left; then it is a number on what they did', async () => {
  const db = await lived();
  const name = { name: 'Ben Wy', initials: false };
  await expect(eraseSubject(db, acting(), name)).rejects.toThrow(/still works here/);
  const { version } = await editPerson(db, acting(), {
    id: 2,
    name: 'Ben Wy',
    initials: 'BW',
    role: 'technician',
    placeId: 1,
    expectedVersion: 1,
  });
  await retirePerson(db, acting(), { id: 2, expectedVersion: version });
  await eraseSubject(db, acting(), name);
  expect(await db('person').where({ id: 2 }).first()).toMatchObject({ name: 'Person 2', initials: '–' });
  expect(await db('report').first()).toMatchObject({ person_id: 2 });
});

// Text that is no words of people: keys, codes, days, kinds, what is computed from the rest and made anew.
const NO_WORDS = new Set(
  `audit.* standing_record.* idempotency.* instrument_state.* session.* secret.* account.* procedure_snapshot.*
  knex_migrations.* knex_migrations_lock.* label_link.token feed.token photo.hash photo.step said.hash said.wrong
  product.* programme.* place.name place.climate lot.* intake_profile.* intake.heads intake.sheet person.initials
  person.role person.lead instrument.tag instrument.tag_key instrument.size instrument.handedness instrument.head
  instrument.tuner instrument.tail_end instrument.bridge instrument.string_end instrument.fingerboard
  instrument.extras instrument.player instrument.maker instrument.model instrument.serial instrument_position.*
  job.strings job.cursor job.method job.halves job_phase.* change_record.parts string_entry.action
  fault_case.symptom stock_move.why delivery.* place.last_way availability.starts availability_once.starts availability_once.together plan_job.aside plan_weights.* job_answer.step job_answer.key
  interval_version.of_key interval_version.scope interval_version.school`
    .split(/\s+/)
    .filter(Boolean),
);
const KINDS =
  /(_on|_hash|_time|numbers|status|kind|family|form|state|verdict|outcome|source|subject|entity|on_day|day_style|op|fingerprint)$/;

it('no column of words is forgotten: each stands where names are looked for, or is known to hold none', async () => {
  const { db } = await smallProgramme();
  const tables: { name: string }[] = await db('sqlite_master').where({ type: 'table' }).select('name');
  const forgotten: string[] = [];
  for (const { name } of tables.filter((t) => !t.name.startsWith('sqlite_')))
    for (const c of (await db.raw(`pragma table_info("${name}")`)) as { name: string; type: string }[]) {
      if (!/char|text/i.test(c.type) || KINDS.test(c.name)) continue;
      if (WRITTEN[name]?.includes(c.name) || NO_WORDS.has(`${name}.*`) || NO_WORDS.has(`${name}.${c.name}`)) continue;
      forgotten.push(`${name}.${c.name}`);
    }
  expect(forgotten).toEqual([]);
});
