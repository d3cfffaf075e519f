import { KEPT_NAME } from '../islands/bench/keptName';
import { onScan } from '../islands/scan';
import type { Offer } from './waiting';

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

// Kept pages are those of whoever holds the device: another finds none of them, and a signed-out device has none.
const HOLDER = 'arvick.holder';
async function emptyForAnother(): Promise<void> {
  const { kept, person = '' } = document.documentElement.dataset;
  if (kept !== undefined || !('caches' in globalThis)) return;
  try {
    if (localStorage.getItem(HOLDER) === person) return;
    await caches.delete('pages');
    localStorage.setItem(HOLDER, person);
    if (person && navigator.serviceWorker.controller) await fetch(location.href, { headers: { accept: 'text/html' } });
  } catch {
    // A browser that keeps nothing has nothing to empty.
  }
}
void emptyForAnother();

// A label read anywhere opens that instrument.
onScan((code) => {
  location.assign(`/jump?q=${encodeURIComponent(code)}`);
  return true;
});

const bar = document.querySelector<HTMLElement>('[data-device-bar]');
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
    : `No answer from the server. This page was last updated ${seen ? new Date(seen).toLocaleString() : 'some time ago'}.`;
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
    say(`${keptWords} The server is back.`, {
      label: 'Show the latest',
      act: () => location.reload(),
    });
}

/** What an earlier page left waiting is sent; what it takes is loaded only where something does. */
async function sendWaiting(): Promise<void> {
  // Nothing waits on a device where nothing was ever kept. A browser that cannot tell is asked.
  const known = await globalThis.indexedDB?.databases?.().catch(() => null);
  if (known && !known.some((d) => d.name === KEPT_NAME)) return;
  const keep = await import('../islands/bench/keep').then((m) => m.openKeep());
  const [parcels, photos] = await Promise.all([keep.all(), keep.photosWaiting()]);
  if (photos.length > 0 || parcels.some((p) => p.state !== 'sent'))
    await import('./waiting').then((m) => m.sendWaiting(keep, say, keptWords));
}
if (bar) void sendWaiting();
