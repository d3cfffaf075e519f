/**
 * Answers on their way to the server. Each is kept in the browser before it is sent and until the server has it, with
 * a key that stays the same, so a reload or a lost answer delivers it exactly once.
 */
export interface Parcel {
  key: string;
  body: { step: string; outcome: 'done' | 'skipped' | 'trouble' | 'measured'; note: string; cursor: string };
}

type Store = Pick<Storage, 'getItem' | 'setItem' | 'removeItem'>;
/** What became of a parcel: taken, refused for good, or no answer yet. */
export type Delivery = 'taken' | 'refused' | 'no-answer';

export class Outbox {
  private parcels: Parcel[];
  private running: Promise<void> | null = null;

  constructor(
    private readonly store: Store,
    private readonly name: string,
    private readonly deliver: (parcel: Parcel) => Promise<Delivery>,
    private readonly changed: (waiting: number, stuck: boolean) => void,
    private readonly wait: (ms: number) => Promise<void> = (ms) => new Promise((done) => setTimeout(done, ms)),
  ) {
    this.parcels = this.read();
  }

  get waiting(): readonly Parcel[] {
    return this.parcels;
  }

  /** Keeps a parcel and starts sending. */
  add(parcel: Parcel): void {
    this.parcels = [...this.parcels, parcel];
    this.keep();
    void this.flush();
  }

  /** Sends what waits, in order, until nothing is left or the server refuses. */
  flush(): Promise<void> {
    this.running ??= this.run().finally(() => {
      this.running = null;
    });
    return this.running;
  }

  private async run(): Promise<void> {
    let pause = 1000;
    while (this.parcels[0]) {
      const result = await this.deliver(this.parcels[0]);
      if (result === 'no-answer') {
        this.changed(this.parcels.length, true);
        await this.wait(pause);
        pause = Math.min(pause * 2, 15_000);
        continue;
      }
      pause = 1000;
      this.parcels = this.parcels.slice(1);
      this.keep();
    }
  }

  private read(): Parcel[] {
    try {
      const kept = JSON.parse(this.store.getItem(this.name) ?? '[]');
      return Array.isArray(kept) ? kept : [];
    } catch {
      return [];
    }
  }

  private keep(): void {
    try {
      if (this.parcels.length) this.store.setItem(this.name, JSON.stringify(this.parcels));
      else this.store.removeItem(this.name);
    } catch {
      // A full or forbidden store: the answers are still sent, they only do not outlive this page.
    }
    this.changed(this.parcels.length, false);
  }
}
