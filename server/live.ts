import { setInterval } from 'node:timers';
import type { Knex } from 'knex';
import { OF_ONE_PERSON } from './db/memo';
import { log } from './log';

/** Changes are looked for so often: by whatever process or thread they are made, each leaves an entry. */
const LOOK_MS = 2000;
/** A line that says nothing, so that nobody on the way takes the silence for an end. */
const BREATH_MS = 25_000;
/** A page asks anew after so long, and is known anew by its session. */
const LONGEST_MS = 10 * 60_000;
const MOST_LISTENING = 400;
/** Open pages of one person; one more ends the oldest, which asks again when somebody looks at it. */
const MOST_OF_ONE = 12;
/** What making one page anew takes of the server, doubled, so that half of its time is left for what people ask for. */
const EACH_MS = 80;
const LONGEST_SPREAD_MS = 12_000;

interface Listener {
  personId: number;
  tell: (by: number[], areas: string[], within: number) => void;
  end: () => void;
}

// The pages and the process that serves them are built apart; what they share is known to both by this name.
const SHARED = Symbol.for('arvick.listening');
const shared = globalThis as { [SHARED]?: Set<Listener> };
const listening = (): Set<Listener> => {
  shared[SHARED] ??= new Set();
  return shared[SHARED];
};

let timer: NodeJS.Timeout | null = null;
let seen: number | null = null;

async function look(db: Knex): Promise<void> {
  const changes = db('audit').whereNotIn('action', OF_ONE_PERSON);
  const before = seen;
  seen = (await changes.clone().orderBy('id', 'desc').first('id'))?.id ?? 0;
  if (before === null || seen === before) return;
  const fresh = await changes.clone().where('id', '>', before).distinct('person_id', 'action').limit(200);
  const by = [...new Set(fresh.map((e) => e.person_id))];
  const areas = [...new Set(fresh.map((e) => e.action.split('.')[0] ?? ''))];
  // Pages that lie open everywhere ask one after the other, so that nobody waits for all of them.
  const within = Math.min(LONGEST_SPREAD_MS, listening().size * EACH_MS);
  for (const l of listening()) l.tell(by, areas, within);
}

/** How many pages listen. */
export const countListening = (): number => listening().size;

/** Ends every page's listening, as when the server stops. */
export function endListening(): void {
  for (const l of [...listening()]) l.end();
}

/**
 * Changes as they happen, as server-sent events (HTML Living Standard, 9.2): by whom they were, by number, of which kind,
 * and within how many ms whoever listens asks for what it shows anew; no more. Null where too many listen already.
 */
export function changesAsTheyHappen(db: Knex, personId: number): ReadableStream<Uint8Array> | null {
  const all = listening();
  const own = [...all].filter((l) => l.personId === personId);
  if (own.length >= MOST_OF_ONE) own[0]?.end();
  if (all.size >= MOST_LISTENING) return null;
  const encoder = new TextEncoder();
  let listener: Listener | null = null;
  let breath: NodeJS.Timeout | undefined;
  let longest: NodeJS.Timeout | undefined;
  const leave = () => {
    clearInterval(breath);
    clearTimeout(longest);
    if (listener) all.delete(listener);
    if (all.size === 0 && timer) {
      clearInterval(timer);
      timer = null;
      seen = null;
    }
  };
  return new ReadableStream({
    start(to) {
      const send = (text: string) => {
        try {
          to.enqueue(encoder.encode(text));
        } catch {
          leave();
        }
      };
      listener = {
        personId,
        tell: (by, areas, within) => send(`data: ${by.join()} ${areas.join()} ${within}\n\n`),
        end: () => {
          leave();
          try {
            to.close();
          } catch {
            // It has left by itself.
          }
        },
      };
      all.add(listener);
      send('retry: 4000\n\n');
      breath = setInterval(() => send(':\n\n'), BREATH_MS).unref();
      longest = setTimeout(() => listener?.end(), LONGEST_MS).unref();
      timer ??= setInterval(
        () => void look(db).catch((error) => log.error(error, 'Changes could not be looked for')),
        LOOK_MS,
      ).unref();
      if (seen === null) void look(db).catch(() => {});
    },
    cancel: leave,
  });
}
