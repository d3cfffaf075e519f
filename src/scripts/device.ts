import { deliver } from '../islands/bench/device';
import { openKeep, type Parcel } from '../islands/bench/keep';
import { aloneInBrowser, Outbox } from '../islands/bench/outbox';
import { passHeader } from '../islands/bench/pass';
import { sendPhotos } from '../islands/bench/photos';
import { onScan } from '../islands/scan';
import { type ProblemAnswer, post } from '../ui/post';

// The pages of the bench are there without a network once they have been looked at. Browsers allow this only on https
// and on the machine itself.
if ('serviceWorker' in navigator && import.meta.env.PROD) {
  const fresh = !navigator.serviceWorker.controller;
  void navigator.serviceWorker.register('/sw.js').catch(() => {});
  // The very first page came before its keeper: it is fetched once more to be kept.
  if (fresh)
    navigator.serviceWorker.addEventListener('controllerchange', () => {
      void fetch(location.href, { headers: { accept: 'text/html' } }).catch(() => {});
    });
}

// A label read anywhere opens that instrument.
onScan((code) => {
  location.assign(`/jump?q=${encodeURIComponent(code)}`);
  return true;
});

const bar = document.querySelector<HTMLElement>('[data-device-bar]');
type Offer = { label: string } & ({ href: string } | { act: () => void });
const say = (text: string, ...offers: Offer[]) => {
  if (!bar) return;
  bar.hidden = text === '';
  bar.textContent = text;
  for (const offer of offers) {
    const made = document.createElement('href' in offer ? 'a' : 'button');
    made.textContent = offer.label;
    made.className = 'btn btn-sm ml-3';
    if ('href' in offer) made.setAttribute('href', offer.href);
    else made.addEventListener('click', offer.act);
    bar.append(made);
  }
};
const seen = document.documentElement.dataset.kept;
const keptWords =
  seen === undefined
    ? ''
    : `No answer from the server: this page is as it was ${seen ? new Date(seen).toLocaleString() : 'last seen'}.`;
if (keptWords) {
  say(keptWords);
  void offerFresh();
}

/** A page shown as it was offers the new one as soon as the server answers; it never makes itself anew under a hand. */
async function offerFresh(): Promise<void> {
  for (let wait = 1000; ; wait = Math.min(wait * 2, 15_000)) {
    const answers = await fetch('/alive', { cache: 'no-store', signal: AbortSignal.timeout(5000) }).then(
      (answer) => answer.ok,
      () => false,
    );
    if (answers) break;
    await new Promise((done) => {
      setTimeout(done, wait);
      window.addEventListener('online', done, { once: true });
    });
  }
  // What waits on this device is told first, and has the same offer when it is through.
  if (bar?.textContent === keptWords)
    say(`${keptWords} It answers again.`, {
      label: 'Show it as it is now',
      act: () => location.reload(),
    });
}

/** Sends what an earlier page left waiting; the bench does this for itself. */
async function sendWaiting(): Promise<void> {
  const keep = await openKeep();
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
          `${keptWords} ${waiting === 1 ? 'One entry' : `${waiting} entries`} of ${tags(first)} ${silent ? 'kept on this device; the server is silent' : 'on the way to the server'}.`.trim(),
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
    return say(
      `The server could not keep ${aside.length === 1 ? 'one entry' : `${aside.length} entries`} of ${tags(aside)}; nothing else waits for it. Tell whoever runs the server.`,
      { label: 'Send it again', act: () => void again() },
      { label: 'Drop it', act: () => void forget() },
    );
  }
  if (!stuck)
    return say('What waited on this device is at the server.', { label: 'Show it', act: () => location.reload() });
  const problem = stuck.answer as ProblemAnswer;
  const current = problem.current as { recordId: number } | null | undefined;
  const drop = async () => {
    await keep.remove(stuck.seq as number);
    location.reload();
  };
  say(
    `${stuck.tag} was not recorded: ${problem.detail}`,
    ...(problem.status === 409 && current
      ? [{ label: 'Keep mine as a note on that record', act: () => void asNote(stuck, current.recordId).then(drop) }]
      : [{ label: 'See to it at the bench', href: `/bench/${stuck.jobId}` }]),
    { label: 'Drop it', act: () => void drop() },
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
  await post(`/api/records/${recordId}/notes`, { text }, `note-${parcel.key}`, {
    ...passHeader(parcel),
  });
}
if (bar) void sendWaiting();
