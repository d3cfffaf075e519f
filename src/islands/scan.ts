/** Longest gap between two keys of a reader, in ms; fingers are slower. */
const READER_GAP_MS = 40;
/** Shorter bursts are two keys pressed at once, not a label. */
const SHORTEST_CODE = 3;

type Scanned = (code: string) => boolean;
const listeners: Scanned[] = [];
let buffer: { event: KeyboardEvent; target: EventTarget | null }[] = [];
let timer: ReturnType<typeof setTimeout> | undefined;
const replayed = new WeakSet<Event>();

/** Gives keys that were no label back to the page. */
function release(): void {
  clearTimeout(timer);
  const keys = buffer;
  buffer = [];
  for (const { event, target } of keys) {
    const { key, code, shiftKey, repeat } = event;
    const again = new KeyboardEvent('keydown', { key, code, shiftKey, repeat, bubbles: true, cancelable: true });
    replayed.add(again);
    (target ?? document.body).dispatchEvent(again);
  }
}

function onKey(event: KeyboardEvent): void {
  if (replayed.has(event) || event.ctrlKey || event.metaKey || event.altKey || event.isComposing) return;
  const target = event.target as HTMLElement;
  if (target.closest?.('input, textarea, select, [contenteditable]')) return;
  if (event.key === 'Enter' && buffer.length >= SHORTEST_CODE) {
    clearTimeout(timer);
    const code = buffer.map((k) => k.event.key).join('');
    event.preventDefault();
    event.stopImmediatePropagation();
    const keys = buffer;
    buffer = [];
    // The one who listens last is nearest to what is on the screen.
    if ([...listeners].reverse().some((scanned) => scanned(code))) return;
    buffer = keys;
    release();
    return;
  }
  // No label begins with the key of the jump box, and what follows it is typed into the box.
  const jump = event.key === '/' && buffer.length === 0;
  if (event.key.length !== 1 || event.key === ' ' || jump) {
    release();
    return;
  }
  // Only kept back from the page's own keys for a blink; what the browser does with a letter it does.
  event.stopImmediatePropagation();
  buffer.push({ event, target: event.target });
  clearTimeout(timer);
  timer = setTimeout(release, READER_GAP_MS);
}

/**
 * Hears a label reader, which is a keyboard that types quickly and ends with Enter. Keys typed by a person reach the
 * page as ever, a blink later.
 *
 * @param scanned takes the code and answers whether it was for it
 * @returns stops listening
 */
export function onScan(scanned: Scanned): () => void {
  if (listeners.length === 0) window.addEventListener('keydown', onKey, { capture: true });
  listeners.push(scanned);
  return () => {
    listeners.splice(listeners.indexOf(scanned), 1);
    if (listeners.length === 0) window.removeEventListener('keydown', onKey, { capture: true });
  };
}
