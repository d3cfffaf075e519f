import { count } from '../../core/count';
import { deliver } from '../islands/bench/device';
import type { Keep, Parcel } from '../islands/bench/keep';
import { lateFor } from '../islands/bench/lateFor';
import { aloneInBrowser, Outbox } from '../islands/bench/outbox';
import { sendPhotos } from '../islands/bench/photos';
import { type ProblemAnswer, post } from '../ui/post';

export type Offer = { label: string } & ({ href: string } | { act: () => void });

/**
 * Sends what an earlier page left waiting; the bench does this for itself.
 * @param keptWords what already stands in the bar, where the page is shown as it was
 */
export async function sendWaiting(
  keep: Keep,
  say: (text: string, ...offers: Offer[]) => void,
  keptWords: string,
): Promise<void> {
  void sendPhotos(keep);
  window.addEventListener('online', () => void sendPhotos(keep));
  const first = await keep.waiting();
  const all = await keep.all();
  const refused = all.filter((p) => p.kind === 'close' && p.state === 'refused');
  const aside = all.filter((p) => p.state === 'aside');
  if (first.length === 0 && refused.length === 0 && aside.length === 0) return;
  const tags = (list: readonly Parcel[]) => [...new Set(list.map((p) => p.tag))].join(', ');
  const outbox: Outbox = new Outbox({
    keep,
    deliver,
    alone: aloneInBrowser,
    changed: (waiting, silent) => {
      if (waiting > 0)
        say(
          `${keptWords} ${count(waiting, 'entry', 'entries')} for ${tags(first)} ${silent ? 'kept on this device; no answer from the server' : 'being sent'}.`.trim(),
        );
    },
    arrived: (parcel) => {
      if (parcel.kind === 'close' && parcel.state === 'refused') refused.push(parcel);
      if (parcel.state === 'aside') aside.push(parcel);
    },
  });
  for (const parcel of first) outbox.adopt(parcel);
  window.addEventListener('online', () => void outbox.flush());
  if (first.length > 0) await outbox.flush();
  const stuck = refused[0];
  if (!stuck && aside.length > 0) {
    const again = async () => {
      for (const p of aside) await keep.mark(p.seq as number, 'waiting', null);
      location.reload();
    };
    const forget = async () => {
      for (const p of aside) await keep.remove(p.seq as number);
      location.reload();
    };
    const answer = aside[0]?.answer as ProblemAnswer | null | undefined;
    return say(
      answer && answer.status < 500
        ? `${count(aside.length, 'entry', 'entries')} for ${tags(aside)}, kept on this device: ${answer.detail}`
        : `The server could not save ${count(aside.length, 'entry', 'entries')} for ${tags(aside)}; nothing else is held up. Tell whoever runs the server.`,
      { label: 'Send it again', act: () => void again() },
      { label: 'Delete it', act: () => void forget() },
    );
  }
  if (!stuck)
    return say('Everything kept on this device has been sent.', { label: 'Show it', act: () => location.reload() });
  const problem = stuck.answer as ProblemAnswer;
  const current = problem.current as { recordId: number } | null | undefined;
  const drop = async () => {
    await keep.remove(stuck.seq as number);
    location.reload();
  };
  say(
    `${stuck.tag} was not recorded: ${problem.detail}`,
    ...(problem.status === 409 && current
      ? [{ label: 'Save mine as a note on that record', act: () => void asNote(stuck, current.recordId).then(drop) }]
      : [{ label: 'Sort it out at the bench', href: `/bench/${stuck.jobId}` }]),
    { label: 'Delete it', act: () => void drop() },
  );
}

/** What somebody meant to record, kept beside what was recorded before it. */
async function asNote(parcel: Parcel, recordId: number): Promise<void> {
  const body = parcel.body as { notes?: string; entries?: { number: number; action: string; broken: number }[] };
  const lines = (body.entries ?? [])
    .filter((e) => e.action !== 'kept')
    .map(
      (e) => `string ${e.number} ${e.action === 'fit' ? 'new' : 'left off'}${e.broken ? `, ${e.broken} broke` : ''}`,
    );
  const text = [`Also recorded: ${lines.join('; ')}.`, body.notes].filter(Boolean).join(' ');
  await post(`/api/records/${recordId}/notes`, { text }, `note-${parcel.key}`, lateFor(parcel));
}
