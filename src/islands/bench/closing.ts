import { useCallback, useEffect, useRef, useState } from 'react';
import type { Job } from '../../../server/bench/jobs';
import { newKey } from '../../ui/key';
import type { ProblemAnswer } from '../../ui/post';
import type { Device } from './device';
import type { Parcel } from './keep';

/**
 * The end of a job on its way to the server. It is kept on the device like every answer, goes out by itself when the
 * server is there, and can be taken back to be changed as long as it has not arrived.
 */
export function useClosing<T>(p: {
  device: Device;
  job: Job;
  url: string;
  personId: number;
  /** The closing parcel whose answer came last. */
  closing: Parcel | null;
  done: (answer: T) => void;
}) {
  const { device, job, url, personId, closing } = p;
  const [waiting, setWaiting] = useState<Parcel | null>(
    () => device.parcels.find((x) => x.kind === 'close' && x.state === 'waiting') ?? null,
  );
  const [problem, setProblem] = useState<ProblemAnswer | null>(null);
  const busy = useRef(false);
  const done = useRef(p.done);
  done.current = p.done;

  useEffect(() => {
    if (!closing) return;
    busy.current = false;
    setWaiting(null);
    if (closing.state !== 'sent') return setProblem(closing.answer as ProblemAnswer);
    void device.keep.forget(job.id).then(() => done.current(closing.answer as T));
  }, [closing, device, job.id]);

  const send = useCallback(
    async (body: Record<string, unknown>) => {
      // A double press is one intention; a press while it waits tries again at once.
      if (waiting || busy.current) return void device.outbox.flush();
      busy.current = true;
      setProblem(null);
      // What the server failed on before is sent anew by this.
      for (const old of await device.keep.ofJob(job.id))
        if (old.kind === 'close' && old.state === 'aside') await device.keep.remove(old.seq as number);
      const parcel: Parcel = {
        key: newKey(),
        jobId: job.id,
        tag: job.tag,
        kind: 'close',
        url,
        body,
        personId,
        state: 'waiting',
      };
      setWaiting(parcel);
      setWaiting(await device.outbox.add(parcel));
    },
    [waiting, device, job.id, job.tag, url, personId],
  );
  const takeBack = useCallback(async () => {
    if (waiting?.seq !== undefined) await device.keep.remove(waiting.seq);
    busy.current = false;
    setWaiting(null);
  }, [waiting, device]);
  return { waiting: waiting !== null, problem, setProblem, send, takeBack };
}
