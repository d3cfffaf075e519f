import { setImmediate } from 'node:timers/promises';
import type { Knex } from 'knex';
import { folderOf } from '../db/connection';
import { programmeJson } from './programme';

/** The whole programme as it is sent, piece by piece as fast as it is taken. */
export function wholeProgramme(db: Knex): ReadableStream<Uint8Array> {
  const pieces = programmeJson(folderOf(db));
  const encoder = new TextEncoder();
  return new ReadableStream({
    async pull(to) {
      // Between two pieces the requests of others are answered.
      await setImmediate();
      // Many rows in one piece: the way to whoever takes them costs more than the rows.
      let text = '';
      while (text.length < 200_000) {
        const next = await pieces.next();
        if (next.done) {
          if (text) to.enqueue(encoder.encode(text));
          return to.close();
        }
        text += next.value;
      }
      to.enqueue(encoder.encode(text));
    },
    async cancel() {
      await pieces.return(undefined);
    },
  });
}
