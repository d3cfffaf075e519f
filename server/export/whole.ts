import { setImmediate } from 'node:timers/promises';
import type { Knex } from 'knex';
import { folderOf } from '../db/connection';
import { programmeJson } from './programme';

/** So much is sent in one piece: the way to whoever takes it costs more than the rows. */
const PIECE_SIGNS = 200_000;

/** A text as it is sent, piece by piece as fast as it is taken; between two pieces the requests of others are answered. */
export function streamOf(pieces: AsyncGenerator<string>): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder();
  return new ReadableStream({
    async pull(to) {
      await setImmediate();
      let text = '';
      while (text.length < PIECE_SIGNS) {
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

/** The whole programme as it is sent. */
export const wholeProgramme = (db: Knex): ReadableStream<Uint8Array> => streamOf(programmeJson(folderOf(db)));
