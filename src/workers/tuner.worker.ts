import { PitchEstimator, type Target } from '../../core/pitch/estimate';
import { SteadyReading } from '../../core/pitch/steady';

export type ToTuner =
  | { kind: 'start'; targets: Target[]; sampleRate: number; length: number }
  | { kind: 'frame'; samples: Float32Array };
export type FromTuner = { kind: 'reading'; reading: ReturnType<SteadyReading['next']>; samples: Float32Array };

let estimator: PitchEstimator | null = null;
let steady = new SteadyReading();
let targets: Target[] = [];

self.onmessage = (event: MessageEvent<ToTuner>) => {
  const message = event.data;
  if (message.kind === 'start') {
    estimator = new PitchEstimator(message.length, message.sampleRate);
    steady = new SteadyReading();
    targets = message.targets;
    return;
  }
  if (!estimator) return;
  const reading = steady.next(estimator.read(message.samples, targets));
  // The buffer goes back and is filled again.
  const answer: FromTuner = { kind: 'reading', reading, samples: message.samples };
  self.postMessage(answer, { transfer: [message.samples.buffer] });
};
