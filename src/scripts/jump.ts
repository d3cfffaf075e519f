import Combobox from '@github/combobox-nav';
import type { Hit } from '../../server/find/find';

const WAIT_MS = 90;

/** Shows below the jump box what its words mean, to be chosen by arrow keys or touch; Enter alone goes where it always did. */
export function jumpBox(input: HTMLInputElement, list: HTMLElement): void {
  const combobox = new Combobox(input, list, { tabInsertsSuggestions: false });
  let asked = 0;
  let timer: ReturnType<typeof setTimeout> | undefined;
  const close = () => {
    combobox.stop();
    list.hidden = true;
    list.replaceChildren();
  };
  const show = (found: Hit[]) => {
    close();
    list.replaceChildren(
      ...found.map((hit, i) => {
        const item = document.createElement('a');
        item.id = `jump-${i}`;
        item.href = hit.href;
        item.tabIndex = -1;
        item.setAttribute('role', 'option');
        item.className =
          'px-3 py-1.5 flex gap-3 items-baseline aria-selected:bg-base-100 aria-selected:outline-2 aria-selected:-outline-offset-2 aria-selected:outline-primary hover:bg-base-100';
        const title = document.createElement('b');
        title.className = hit.kind === 'instrument' ? 'tag shrink-0' : 'shrink-0 max-w-[60%] truncate';
        title.textContent = hit.title;
        const says = document.createElement('span');
        says.className = 'muted text-sm truncate';
        says.textContent = hit.says;
        item.append(title, says);
        return item;
      }),
    );
    if (found.length === 0) return;
    list.hidden = false;
    combobox.start();
  };
  const ask = async () => {
    asked += 1;
    const own = asked;
    const q = input.value.trim();
    if (!q) return close();
    const answer = await fetch(`/api/find?q=${encodeURIComponent(q)}`).catch(() => null);
    // An older question's answer comes too late.
    if (own !== asked || !answer?.ok || document.activeElement !== input) return;
    show((await answer.json()) as Hit[]);
  };
  input.addEventListener('input', () => {
    clearTimeout(timer);
    timer = setTimeout(() => void ask(), WAIT_MS);
  });
  input.addEventListener('blur', close);
  input.addEventListener('keydown', (event) => {
    if (event.key === 'Escape') close();
  });
  // The box keeps the focus, and with it the list, until what was pressed is opened.
  list.addEventListener('pointerdown', (event) => event.preventDefault());
  // What was typed before this was there.
  if (input.value) void ask();
}
