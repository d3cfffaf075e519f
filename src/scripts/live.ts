import type { Role } from '../../contract/permissions';
import { showAllowed } from './allowed';
import { hasUnsent } from './forms';

/** Several changes at once are one; a page that lies open does not ask all the time. */
const PAUSE_MS = 1000;
const LEAST_BETWEEN_MS = 5000;

/** Whether somebody is in the midst of something on the page. */
const isBusy = (main: HTMLElement): boolean =>
  hasUnsent() ||
  main.contains(document.activeElement) ||
  document.querySelector('dialog[open]') !== null ||
  main.querySelector('details[open]') !== null;

/** Makes the page's contents anew from the server, where they are; scripts of the document go on. */
async function anew(main: HTMLElement): Promise<boolean> {
  const answer = await fetch(location.href, { headers: { accept: 'text/html' } });
  if (!answer.ok || answer.redirected) return false;
  const fresh = new DOMParser().parseFromString(await answer.text(), 'text/html').querySelector('main');
  if (!fresh || isBusy(main)) return false;
  const role = document.documentElement.dataset.role as Role | undefined;
  if (role) showAllowed(fresh.ownerDocument, role);
  main.replaceChildren(...fresh.childNodes);
  return true;
}

/**
 * Keeps a page no older than a few seconds: when somebody changes something it is made anew, or, in the midst of work
 * and where that would lose something, it is told. Nothing listens while the page is not looked at.
 */
export function followChanges(main: HTMLElement): void {
  let source: EventSource | null = null;
  let waits: ReturnType<typeof setTimeout> | undefined;
  let hidden = false;
  let last = 0;
  const bar = document.querySelector<HTMLElement>('[data-live-bar]');
  const tell = () => {
    if (bar) bar.hidden = false;
  };
  const changed = (event?: MessageEvent<string>) => {
    const [by, areas = '', within = '0'] = event?.data.split(' ') ?? [];
    // What somebody did on this very page it shows already.
    if (main.dataset.live === 'told' && by === main.dataset.me) return;
    // What the page does not show changes nothing on it.
    const unmoved = main.dataset.unmovedBy?.split(' ');
    if (event && unmoved && areas.split(',').every((area) => unmoved.includes(area))) return;
    // What comes while it waits is shown with it: put off at each change, a busy day would never be shown.
    if (waits !== undefined) return;
    const soonest = last + LEAST_BETWEEN_MS - Date.now();
    waits = setTimeout(
      async () => {
        waits = undefined;
        last = Date.now();
        if (main.dataset.live === 'told' || main.querySelector('astro-island') || isBusy(main)) return tell();
        if (!(await anew(main).catch(() => false))) tell();
      },
      // Pages that lie open everywhere ask one after the other.
      Math.max(PAUSE_MS, soonest) + Math.random() * Number(within),
    );
  };
  const listen = () => {
    if (source || document.hidden) return;
    source = new EventSource('/api/live');
    source.addEventListener('message', changed);
    // What was changed while nobody looked was not told.
    if (hidden) changed();
  };
  document.addEventListener('visibilitychange', () => {
    if (!document.hidden) return listen();
    hidden = true;
    source?.close();
    source = null;
  });
  window.addEventListener('pagehide', () => source?.close());
  bar?.querySelector('button')?.addEventListener('click', () => location.reload());
  listen();
}
