import type { ReadName } from './reads';

/** What is worth reading before somebody asks again: long, and stale after every change. */
const WORTH: readonly ReadName[] = ['planPage', 'stockAhead'];
/** Whoever asked within so long is likely to ask again. */
const ASKED_WITHIN_MS = 60_000;

/**
 * Reads again what somebody asked for lately, as soon as something was changed, so that the next who asks need not wait.
 * Nothing is read while questions wait, nor of what nobody looks at.
 */
export class ReadAgain {
  readonly #asked = new Map<ReadName, { rest: unknown[]; at: number }>();
  #seen: number | null = null;
  #waiting = 0;
  #looking = false;

  /**
   * @param of.now ms
   * @param of.lastChange a number that is another after each change
   * @param of.read reads, and keeps what it read for who asks
   */
  constructor(
    private readonly of: {
      now: () => number;
      lastChange: () => Promise<number>;
      read: (name: ReadName, rest: unknown[]) => Promise<unknown>;
    },
  ) {}

  /** Somebody asks: what they ask for is remembered, and goes before. */
  async answer<T>(name: ReadName, rest: unknown[], read: () => Promise<T>): Promise<T> {
    if (WORTH.includes(name)) this.#asked.set(name, { rest, at: this.of.now() });
    this.#waiting += 1;
    try {
      return await read();
    } catch (error) {
      // What cannot be read, as on a full disk, is not tried again and again behind everybody's back.
      this.#asked.delete(name);
      throw error;
    } finally {
      this.#waiting -= 1;
    }
  }

  /** Looks whether anything was changed, and reads again what was asked for lately. @returns what was read */
  async look(): Promise<ReadName[]> {
    if (this.#looking || this.#waiting > 0) return [];
    const lately = [...this.#asked].filter(([, { at }]) => at > this.of.now() - ASKED_WITHIN_MS);
    if (lately.length === 0) {
      this.#seen = null;
      return [];
    }
    this.#looking = true;
    const done: ReadName[] = [];
    try {
      const last = await this.of.lastChange();
      const fresh = this.#seen === last;
      this.#seen = last;
      if (fresh) return [];
      for (const [name, { rest }] of lately) {
        if (this.#waiting > 0) break;
        await this.of.read(name, rest);
        done.push(name);
      }
      // What somebody's question came between is read again at the next look.
      if (done.length < lately.length) this.#seen = null;
      return done;
    } finally {
      this.#looking = false;
    }
  }
}
