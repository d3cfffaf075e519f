import { transfer, wrap } from 'comlink';
import type { Reading, Target } from '../../../core/pitch/estimate';
import type { PracticeInstrument } from '../../../core/pitch/practice';
import type { Ear } from '../../workers/tuner.worker';

/** Where a tuner listens: fills a frame with the latest samples, or says that there are none. */
interface Source {
  sampleRate: number;
  fill(into: Float32Array): boolean;
  close(): void;
}

/** Notes below this need the longer frame, in Hz. */
const LOW_HZ = 90;
const EVERY_MS = 90;

export const frameLength = (targets: readonly Target[]): number =>
  Math.min(...targets.map((t) => t.hz)) < LOW_HZ ? 16_384 : 8192;

/** The microphone, untouched by the browser's own voice processing. */
export async function microphone(length: number): Promise<Source> {
  const stream = await navigator.mediaDevices.getUserMedia({
    audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false },
  });
  const context = new AudioContext();
  await context.resume();
  const analyser = context.createAnalyser();
  analyser.fftSize = length;
  context.createMediaStreamSource(stream).connect(analyser);
  return {
    sampleRate: context.sampleRate,
    fill(into) {
      analyser.getFloatTimeDomainData(into as Float32Array<ArrayBuffer>);
      return true;
    },
    close() {
      for (const track of stream.getTracks()) track.stop();
      void context.close();
    },
  };
}

/** The practice instrument, plucked by hand. */
export function practiceSource(
  instrument: PracticeInstrument,
  plucked: () => { number: number; at: number } | null,
): Source {
  return {
    sampleRate: 48_000,
    fill(into) {
      const pluck = plucked();
      if (!pluck) return false;
      const since = (performance.now() - pluck.at) / 1000;
      if (since > 4) return false;
      into.set(instrument.frame(pluck.number, since, 48_000, into.length));
      return true;
    },
    close() {},
  };
}

/** Listens until closed; each reading comes from the worker, one frame at a time. */
export function listen(source: Source, targets: Target[], onReading: (reading: Reading | null) => void): () => void {
  const worker = new Worker(new URL('../../workers/tuner.worker.ts', import.meta.url), { type: 'module' });
  const ear = wrap<Ear>(worker);
  const length = frameLength(targets);
  void ear.start(targets, source.sampleRate, length);
  // One buffer goes to the worker and back.
  let buffer: Float32Array | null = new Float32Array(length);
  const timer = setInterval(async () => {
    if (!buffer || !source.fill(buffer)) return;
    const samples = buffer;
    buffer = null;
    const heard = await ear.hear(transfer(samples, [samples.buffer]));
    buffer = heard.samples;
    onReading(heard.reading);
  }, EVERY_MS);
  return () => {
    clearInterval(timer);
    worker.terminate();
    source.close();
  };
}
