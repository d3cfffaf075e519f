import { expose, transfer } from 'comlink';
import { PitchEstimator, type Reading, type Target } from '../../core/pitch/estimate';
import { SteadyReading } from '../../core/pitch/steady';

let estimator: PitchEstimator | null = null;
let steady = new SteadyReading();
let targets: readonly Target[] = [];

const ear = {
  start(strings: readonly Target[], sampleRate: number, length: number): void {
    estimator = new PitchEstimator(length, sampleRate);
    steady = new SteadyReading();
    targets = strings;
  },
  /** What a frame sounds like. Its buffer goes back with the answer, to be filled again. */
  hear(samples: Float32Array): { reading: Reading | null; samples: Float32Array } {
    const reading = estimator ? steady.next(estimator.read(samples, targets)) : null;
    return transfer({ reading, samples }, [samples.buffer]);
  },
};
export type Ear = typeof ear;
expose(ear);
