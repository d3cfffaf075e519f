import { writeFileSync } from 'node:fs';
import { pathToFileURL } from 'node:url';
import type { Knex } from 'knex';
import { openDatabase } from '../server/db/connection';
import { LEFT_OUT } from '../server/export/programme';

const PATH = 'server/db/tables.ts';
const FORMAT_PATH = 'docs/formats/programme.schema.json';

/** What a column of text may hold, where it is one of few. */
const ONE_OF: Record<string, string> = {
  'follow_up.kind': 'VisitKind',
  'inspection.verdict': "Inspection['verdict']",
  'instrument.family': 'Family',
  'intake.status': "'open' | 'applied' | 'undone' | 'dropped'",
  'intake.subject': 'Subject',
  'intake_profile.subject': 'Subject',
  'intake_profile.day_style': 'DayStyle',
  'instrument_position.now_state': "'on' | 'missing'",
  'instrument_state.due_by': "Due['by']",
  'instrument_state.family': 'Family',
  'interval_version.family': 'Family',
  'interval_version.school': "CareRule['school']",
  'interval_version.scope': 'IntervalScope',
  'job.kind': 'JobKind',
  'job.status': "'open' | 'finished' | 'cancelled'",
  'job_answer.outcome': "Said['outcome']",
  'method_version.family': 'Family',
  'person.lead': 'Lead',
  'person.role': "'coordinator' | 'technician' | 'helper' | 'teacher'",
  'place.climate': 'Climate',
  'plan_request.kind': "'service' | 'refit' | 'inspection'",
  'practice.family': 'Family',
  'product.family': 'Family',
  'product.kind': "'single' | 'set' | 'hybrid' | 'consumable'",
  'programme.day_style': "Manner['days']",
  'programme.gauges': "Manner['gauges']",
  'programme.lengths': "Manner['lengths']",
  'programme.performance': "'own' | 'coordinator' | 'desk'",
  'purchase_order.status': "'draft' | 'sent' | 'confirmed' | 'part' | 'received' | 'closed' | 'cancelled'",
  'report.kind': "OpenReport['kind']",
  'said.wrong': 'WrongId',
  'sign_off.family': 'Family',
  'string_entry.action': "'fit' | 'kept' | 'left-off'",
};

const HEAD = `// Made from the schema by scripts/tables.ts; a test says when it is no longer true.
import type { Knex } from 'knex';
import type { WrongId } from '../../core/faults/wrongs';
import type { Family } from '../../core/instruments/build';
import type { Subject } from '../../core/intake/columns';
import type { DayStyle } from '../../core/intake/days';
import type { Manner } from '../../core/manner';
import type { Said } from '../../core/procedures/answers';
import type { Lead } from '../../core/procedures/led';
import type { JobKind } from '../../core/procedures/types';
import type { VisitKind } from '../../core/settling/readyBy';
import type { CareRule, Due, Inspection, OpenReport } from '../../core/wear/due';
import type { Climate } from '../../core/wear/exposure';
import type { IntervalScope } from '../../core/wear/intervals';

/** SQLite has none of its own: written as a boolean, read as 0 or 1. */
type Bool = boolean | 0 | 1;

/** The rows of each table and view. */
interface Rows {
`;

const TAIL = `}

type Written<R> = { [K in keyof R]?: R[K] | Knex.Raw };
type Typed = { [T in keyof Rows]: Knex.CompositeTableType<Rows[T], Written<Rows[T]>, Written<Rows[T]>> };

declare module 'knex/types/tables.js' {
  interface Tables extends Typed {}
}
`;

/** The types of all tables and views of a database, as TypeScript. */
export async function tablesText(db: Knex): Promise<string> {
  const tables: { name: string }[] = await db('sqlite_master')
    .whereIn('type', ['table', 'view'])
    .whereNot('name', 'like', 'sqlite_%')
    .whereNot('name', 'like', 'knex_%')
    .orderBy('name')
    .select('name');
  let text = HEAD;
  for (const { name } of tables) {
    const columns: { name: string; type: string; notnull: number; pk: number }[] = await db.raw(
      `pragma table_info(${name})`,
    );
    text += `  ${name}: {\n`;
    for (const c of columns) {
      const type =
        ONE_OF[`${name}.${c.name}`] ??
        (/bool/i.test(c.type) ? 'Bool' : /int|float|real/i.test(c.type) ? 'number' : 'string');
      // A view does not know what cannot be empty; what it shows is said by its table.
      text += `    ${c.name}: ${type}${c.notnull || c.pk || name === 'standing_record' ? '' : ' | null'};\n`;
    }
    text += '  };\n';
  }
  return text + TAIL;
}

const jsonType = (type: string): string =>
  /int|bool/i.test(type) ? 'integer' : /float|real/i.test(type) ? 'number' : 'string';

/** The JSON Schema of a whole programme as it is taken along. */
export async function formatText(db: Knex): Promise<string> {
  const tables: { name: string }[] = await db('sqlite_master')
    .where({ type: 'table' })
    .whereNot('name', 'like', 'sqlite_%')
    .whereNot('name', 'like', 'knex_%')
    .whereNotIn('name', [...LEFT_OUT])
    .orderBy('name')
    .select('name');
  const properties: Record<string, unknown> = {};
  for (const { name } of tables) {
    const columns: { name: string; type: string; notnull: number; pk: number }[] = await db.raw(
      `pragma table_info(${name})`,
    );
    properties[name] = {
      type: 'array',
      items: {
        type: 'object',
        properties: Object.fromEntries(
          columns.map((c) => [c.name, { type: c.notnull || c.pk ? jsonType(c.type) : [jsonType(c.type), 'null'] }]),
        ),
        required: columns.map((c) => c.name),
        additionalProperties: false,
      },
    };
  }
  const schema = {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: 'A whole programme of Arvick',
    description:
      'Every table as it is kept, a row a line; instants are milliseconds since 1970 UTC, days are YYYY-MM-DD, money is in hundredths, lengths are in mm. Photographs are JPEG files in base64 by the SHA-256 of their bytes.',
    type: 'object',
    properties: {
      format: { const: 'arvick-programme' },
      schema: { type: 'string', description: 'The last change of the schema that the writer had.' },
      log: {
        type: ['object', 'null'],
        description: 'What the activity log was: its first and last entry, how many, and the hash of the last.',
        properties: {
          first: { type: 'integer' },
          last: { type: 'integer' },
          entries: { type: 'integer' },
          hash: { type: 'string' },
        },
        additionalProperties: false,
      },
      tables: { type: 'object', properties, required: Object.keys(properties), additionalProperties: false },
      photos: {
        type: 'object',
        patternProperties: { '^[0-9a-f]{64}$': { type: 'string' } },
        additionalProperties: false,
      },
    },
    required: ['format', 'schema', 'tables', 'photos'],
    additionalProperties: false,
  };
  return `${JSON.stringify(schema)}\n`;
}

if (process.argv[1] && import.meta.url === pathToFileURL(process.argv[1]).href) {
  const db = await openDatabase(process.argv[2] ?? '');
  writeFileSync(PATH, await tablesText(db));
  writeFileSync(FORMAT_PATH, await formatText(db));
  await db.destroy();
}
