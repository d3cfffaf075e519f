import { expectedDropCents } from '../settling/stretch';
import type { CoreMaterial } from '../strings/materials';
import { PLAIN_PLUCK, synthesize } from './synth';

export interface PracticeString {
  number: number;
  hz: number;
  core: CoreMaterial;
  wound: boolean;
}

/**
 * An instrument of the imagination that behaves like a real one: a new string stands below its note, drops when it is
 * stretched, less each round, creeps between, and sounds when it is plucked. It stands in for a microphone.
 */
export class PracticeInstrument {
  private readonly offsets = new Map<number, number>();
  private readonly rounds = new Map<number, number>();

  /** @param rng uniform numbers in [0, 1) */
  constructor(
    private readonly strings: readonly PracticeString[],
    private readonly rng: () => number,
  ) {
    for (const s of strings) this.offsets.set(s.number, -60 - 80 * rng());
  }

  /** Cents from its note. */
  offsetCents(number: number): number {
    return this.offsets.get(number) ?? 0;
  }

  /** Turning the button: so many cents up or down. */
  turn(number: number, cents: number): void {
    this.offsets.set(number, this.offsetCents(number) + cents);
  }

  /** A pull along its length: it falls by what such a string falls in this round. */
  stretch(number: number): void {
    const string = this.strings.find((s) => s.number === number);
    if (!string) return;
    const round = (this.rounds.get(number) ?? 0) + 1;
    this.rounds.set(number, round);
    const drop = expectedDropCents(string, round);
    this.turn(number, -(drop.from + (drop.to - drop.from) * this.rng()));
    // Its neighbours hardly notice; the top does.
    for (const other of this.strings) if (other.number !== number) this.turn(other.number, -1.5 * this.rng());
  }

  /** A frame of the string as it sounds some time after the pluck. */
  frame(number: number, sinceS: number, sampleRate: number, length: number): Float32Array {
    const string = this.strings.find((s) => s.number === number);
    if (!string) return new Float32Array(length);
    const loud = Math.exp(-sinceS / 1.5);
    const frame = synthesize(
      {
        ...PLAIN_PLUCK,
        firstPartialHz: string.hz * 2 ** (this.offsetCents(number) / 1200),
        inharmonicity: string.wound ? 1.2e-4 : 6e-5,
        snrDb: 30 + 20 * Math.log10(Math.max(0.01, loud)),
        humDb: -30,
        humHz: 50,
        neighbour: null,
      },
      sampleRate,
      length,
      this.rng,
    );
    for (let i = 0; i < length; i++) frame[i] = (frame[i] as number) * loud;
    return frame;
  }
}
