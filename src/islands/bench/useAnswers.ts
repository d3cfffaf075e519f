import { useCallback, useEffect, useRef, useState } from 'react';
import { answerKey, type GivenAnswer, type Said } from '../../../core/procedures/answers';
import type { Step } from '../../../core/procedures/types';
import type { Job } from '../../../server/bench/jobs';
import type { Loss } from '../../../server/bench/losses';
import { newKey } from '../../ui/key';
import type { ProblemAnswer } from '../../ui/post';
import { type Device, openDevice, type Saving } from './device';
import type { Parcel } from './keep';

/** An answer as the bench knows it. */
export type LocalAnswer = GivenAnswer & { at: number; key: string };

type Sent = Said & { step: string; also?: string[]; cursor: string; at: number };

/** The answers of one press, one for each step that it answered. */
function answersOf({ step, also = [], cursor: _, at, ...said }: Sent, key: string): LocalAnswer[] {
  return [step, ...also].map((of, i) => ({ ...said, step: of, at, key: answerKey(key, i) }));
}

/** Answers of a job: those the server sent, then those only this device knows yet. */
export function mergeAnswers(server: readonly LocalAnswer[], parcels: readonly Parcel[]): LocalAnswer[] {
  const arrived = new Set(server.map((a) => a.key));
  const held = parcels.filter((p) => p.kind === 'answer' && p.state !== 'refused' && !arrived.has(p.key));
  return [...server, ...held.flatMap((p) => answersOf(p.body as unknown as Sent, p.key))];
}

/** The answers of a job on this device, and their way to the server. */
export function useAnswers(p: {
  job: Job;
  steps: readonly Step[];
  personId: number;
  /** How far this device's clock is ahead, in ms. */
  ahead: number;
  /** Where this device stood, when that is known. */
  resume: (cursor: string) => void;
}) {
  const { job, steps, personId, ahead, resume } = p;
  const [answers, setShown] = useState<LocalAnswer[]>(job.answers);
  // Two presses may come before the first is drawn: each adds to what was said, not to what is shown.
  const known = useRef<LocalAnswer[]>(job.answers);
  const keep = useCallback((all: LocalAnswer[]) => {
    known.current = all;
    setShown(all);
    return all;
  }, []);
  const [saving, setSaving] = useState<Saving>({ waiting: 0, silent: false });
  const [closed, setClosed] = useState<string | null>(null);
  const [loss, setLoss] = useState<Loss | null>(null);
  const [arrivedClose, setArrivedClose] = useState<Parcel | null>(null);
  const [device, setDevice] = useState<Device | null>(null);

  useEffect(() => {
    let current = true;
    const arrived = (parcel: Parcel) => {
      if (!current || parcel.jobId !== job.id) return;
      if (parcel.kind === 'close') return setArrivedClose(parcel);
      if (parcel.state === 'refused') return setClosed((parcel.answer as ProblemAnswer).detail);
      if (parcel.state === 'aside') {
        const answer = parcel.answer as ProblemAnswer | null | undefined;
        return setClosed(
          answer && answer.status < 500
            ? answer.detail
            : 'The server could not save one of your answers. It is kept on this device; the others are being sent.',
        );
      }
      const answer = parcel.answer as { closed: string | null; loss: Loss | null };
      setClosed(answer.closed);
      if (answer.loss) setLoss(answer.loss);
    };
    let opened: Device | null = null;
    const again = () => void opened?.outbox.flush();
    void openDevice(job.id, { changed: (s) => current && setSaving(s), arrived }).then((d) => {
      if (!current) return;
      opened = d;
      const merged = keep(mergeAnswers(job.answers, d.parcels));
      // Where this device stood, unless somebody went on elsewhere.
      const local = d.read<{ cursor: string; answers: number }>('cursor');
      const last = d.parcels.filter((x) => x.kind === 'answer' && x.state !== 'refused').at(-1);
      const held = merged.length > job.answers.length ? (last?.body.cursor as string | undefined) : undefined;
      const to = local && local.answers === merged.length ? local.cursor : held;
      if (to && (to === 'finish' || steps.some((s) => s.key === to))) resume(to);
      if (d.parcels.some((x) => x.kind === 'close' && x.state === 'waiting')) resume('finish');
      // What waits from before is not at the server, whatever the first round of sending will say.
      setSaving({ waiting: d.parcels.filter((x) => x.state === 'waiting').length, silent: false });
      setDevice(d);
      void d.outbox.flush();
    });
    window.addEventListener('online', again);
    return () => {
      current = false;
      window.removeEventListener('online', again);
    };
  }, [job.id, job.answers, steps, resume, keep]);

  /** Says the same of one or several steps, by one press; returns all answers with these. */
  const say = useCallback(
    (said: Said, of: readonly string[], cursor: string): LocalAnswer[] => {
      const [step, ...also] = of;
      if (!device || step === undefined) return known.current;
      const body: Sent = {
        ...said,
        step,
        ...(also.length > 0 ? { also } : {}),
        cursor,
        at: Math.round(Date.now() - ahead),
      };
      const key = newKey();
      void device.outbox.add({
        key,
        jobId: job.id,
        tag: job.tag,
        kind: 'answer',
        url: `/api/jobs/${job.id}/answers`,
        body,
        personId,
        state: 'waiting',
      });
      return keep([...known.current, ...answersOf(body, key)]);
    },
    [device, keep, ahead, job.id, job.tag, personId],
  );
  return { answers, say, saving, closed, loss, forgetLoss: () => setLoss(null), arrivedClose, device };
}
