import type { Hit } from '../../server/find/find';

const WAIT_MS = 90;

/** Shows below the jump box what its words mean, to be chosen by arrow keys or touch; Enter alone goes where it always did. */
export function jumpBox(input: HTMLInputElement, list: HTMLElement): void {
  let hits: Hit[] = [];
  let active = -1;
  let asked = 0;
  let timer: ReturnType<typeof setTimeout> | undefined;
  const close = () => {
    hits = [];
    active = -1;
    list.hidden = true;
    list.replaceChildren();
    input.setAttribute('aria-expanded', 'false');
    input.removeAttribute('aria-activedescendant');
  };
  const mark = (next: number) => {
    active = next;
    for (const [i, item] of [...list.children].entries()) item.setAttribute('aria-selected', String(i === active));
    if (active < 0) input.removeAttribute('aria-activedescendant');
    else input.setAttribute('aria-activedescendant', `jump-${active}`);
    list.children[active]?.scrollIntoView({ block: 'nearest' });
  };
  const show = (found: Hit[]) => {
    hits = found;
    list.replaceChildren(
      ...found.map((hit, i) => {
        const item = document.createElement('li');
        item.id = `jump-${i}`;
        item.setAttribute('role', 'option');
        item.className =
          'px-3 py-1.5 cursor-pointer flex gap-3 items-baseline aria-selected:bg-base-100 hover:bg-base-100';
        const title = document.createElement('b');
        title.className = hit.kind === 'instrument' ? 'tag shrink-0' : 'shrink-0 max-w-[60%] truncate';
        title.textContent = hit.title;
        const says = document.createElement('span');
        says.className = 'muted text-sm truncate';
        says.textContent = hit.says;
        item.append(title, says);
        // Before the box loses the focus and the list with it.
        item.addEventListener('pointerdown', (event) => {
          event.preventDefault();
          location.assign(hit.href);
        });
        return item;
      }),
    );
    list.hidden = found.length === 0;
    input.setAttribute('aria-expanded', String(found.length > 0));
    mark(-1);
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
    if (event.key === 'Escape') return close();
    if (hits.length === 0) return;
    if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      event.preventDefault();
      const step = event.key === 'ArrowDown' ? 1 : -1;
      mark(active < 0 && step < 0 ? hits.length - 1 : ((active + step + 1 + hits.length + 1) % (hits.length + 1)) - 1);
    }
    if (event.key === 'Enter' && active >= 0) {
      event.preventDefault();
      location.assign((hits[active] as Hit).href);
    }
  });
}
