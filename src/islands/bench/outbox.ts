import type { Keep, Parcel } from './keep';

/**
 * What became of a parcel: taken, refused for good, put aside until its own person sends it, failed at the server, or no
 * answer yet.
 */
export type Delivery = { state: 'sent' | 'refused' | 'aside' | 'failed'; answer: unknown } | 'no-answer';

/** A parcel on which the server fails so often is put aside, so that what is behind it goes on. */
const MOST_FAILURES = 4;

export interface OutboxOptions {
  keep: Keep;
  deliver: (parcel: Parcel) => Promise<Delivery>;
  /** How many wait, and whether the server is silent. */
  changed: (waiting: number, silent: boolean) => void;
  /** One of this outbox's parcels has its answer, whoever delivered it. */
  arrived: (parcel: Parcel) => void;
  wait?: (ms: number) => Promise<void>;
  /** Runs one delivery at a time over all pages of this browser. */
  alone?: (run: () => Promise<void>) => Promise<void>;
}

const pause = (ms: number) => new Promise<void>((done) => setTimeout(done, ms));

/** One page of this browser at a time, where the browser can tell; the server counts a key once in any case. */
export const aloneInBrowser = (run: () => Promise<void>): Promise<void> =>
  typeof navigator !== 'undefined' && navigator.locks
    ? (navigator.locks.request('arvick-outbox', run) as unknown as Promise<void>)
    : run();

/**
 * Parcels on their way to the server. Each is kept before it is sent and until the server has answered, with a key that
 * stays the same, so a reload, a lost answer or a second page delivers it exactly once, in the order it was made.
 */
export class Outbox {
  private readonly mine = new Set<number>();
  private adding: Promise<unknown> = Promise.resolve();
  private running: Promise<void> | null = null;
  private again = false;
  private wake: (() => void) | null = null;

  constructor(private readonly options: OutboxOptions) {}

  /** Keeps a parcel and starts sending. Resolves when it is kept. */
  add(parcel: Parcel): Promise<Parcel> {
    const kept = this.adding.then(async () => {
      const known = await this.options.keep.add(parcel);
      this.mine.add(known.seq as number);
      return known;
    });
    this.adding = kept.catch(() => {});
    void kept.then(() => this.flush());
    return kept;
  }

  /** Counts a parcel kept by an earlier page as one of this page's. */
  adopt(parcel: Parcel): void {
    this.mine.add(parcel.seq as number);
  }

  /** Sends what waits, in order; one more round when something was added meanwhile. */
  flush(): Promise<void> {
    if (this.running) {
      this.again = true;
      this.wake?.();
      return this.running;
    }
    this.running = (this.options.alone ?? ((run) => run()))(() => this.run())
      .then(() => this.tell())
      .finally(() => {
        this.running = null;
        if (this.again) {
          this.again = false;
          void this.flush();
        }
      });
    return this.running;
  }

  private async run(): Promise<void> {
    const { keep, deliver, changed } = this.options;
    const wait = this.options.wait ?? pause;
    let delay = 1000;
    for (;;) {
      const waiting = await keep.waiting();
      changed(waiting.length, false);
      const next = waiting[0];
      if (!next) return;
      const result = await deliver(next);
      if (result === 'no-answer') {
        changed(waiting.length, true);
        // A network that comes back, or another press, ends the wait.
        await Promise.race([
          wait(delay),
          new Promise<void>((done) => {
            this.wake = done;
          }),
        ]);
        this.wake = null;
        delay = Math.min(delay * 2, 15_000);
        continue;
      }
      if (result.state === 'failed') {
        const failures = (next.failures ?? 0) + 1;
        const aside = failures >= MOST_FAILURES;
        await keep.mark(next.seq as number, aside ? 'aside' : 'waiting', result.answer, failures);
        changed(waiting.length, true);
        if (aside) await this.tell(next.jobId);
        else await wait(delay);
        continue;
      }
      delay = 1000;
      await keep.mark(next.seq as number, result.state, result.answer);
      await this.tell(next.jobId);
    }
  }

  /** Tells of this page's parcels that have an answer by now. */
  private async tell(jobId?: number): Promise<void> {
    if (this.mine.size === 0) return;
    const { keep } = this.options;
    const kept = await (jobId === undefined ? keep.all() : keep.ofJob(jobId));
    for (const parcel of kept) {
      if (parcel.state === 'waiting' || !this.mine.delete(parcel.seq as number)) continue;
      this.options.arrived(parcel);
    }
  }
}
