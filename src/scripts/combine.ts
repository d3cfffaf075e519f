import { type Field, isTick, stoodIn } from './fields';

const fieldsOf = (form: HTMLFormElement): Field[] =>
  [...form.elements].filter(
    (f): f is Field =>
      (f instanceof HTMLInputElement || f instanceof HTMLSelectElement || f instanceof HTMLTextAreaElement) &&
      f.name !== '' &&
      !(f instanceof HTMLInputElement && ['hidden', 'file', 'password', 'submit'].includes(f.type)),
  );

const standsIn = (f: Field): string => (isTick(f) ? String(f.checked) : f.value);

/** As people read it: the words of a choice, not its number. */
function shown(f: Field, value: string): string {
  if (isTick(f)) return value === 'true' ? 'ticked' : 'not ticked';
  if (f instanceof HTMLSelectElement) return [...f.options].find((o) => o.value === value)?.text ?? value;
  return value === '' ? 'nothing' : value;
}

function put(f: Field, value: string): void {
  if (isTick(f)) f.checked = value === 'true';
  else f.value = value;
}

/** From now on this is what stood in it. */
function stands(f: Field, value: string): void {
  if (isTick(f)) f.defaultChecked = value === 'true';
  else if (f instanceof HTMLSelectElement)
    for (const option of f.options) option.defaultSelected = option.value === value;
  else f.defaultValue = value;
}

/** What a field is called on its page. */
const nameOf = (f: Field): string =>
  f.getAttribute('aria-label') ?? f.labels?.[0]?.querySelector('span')?.firstChild?.textContent?.trim() ?? f.name;

export interface Merged {
  /** Fields both have changed, each in their own way. */
  both: { field: Field; name: string; mine: string; theirs: string; take: () => void }[];
  /** What was theirs alone, and is in the form now. */
  taken: string[];
}

/**
 * Somebody changed meanwhile what a form is about: what they changed comes into it where nothing was entered here; where
 * both have, both are told, and the next press puts what then stands in the fields. Nothing that was entered is lost.
 *
 * @param fresh the same form as its page is made now
 */
export function combine(form: HTMLFormElement, fresh: HTMLFormElement): Merged {
  const merged: Merged = { both: [], taken: [] };
  const theirFields = fieldsOf(fresh);
  for (const field of fieldsOf(form)) {
    const their = theirFields.find((f) => f.name === field.name && (!isTick(f) || f.value === field.value));
    if (!their) continue;
    const [was, theirs, mine] = [stoodIn(field), stoodIn(their), standsIn(field)];
    stands(field, theirs);
    if (theirs === was || theirs === mine) {
      put(field, mine);
      continue;
    }
    if (mine === was) {
      put(field, theirs);
      merged.taken.push(`${nameOf(field)}: ${shown(field, theirs)}`);
      continue;
    }
    put(field, mine);
    merged.both.push({
      field,
      name: nameOf(field),
      mine: shown(field, mine),
      theirs: shown(field, theirs),
      take: () => put(field, theirs),
    });
  }
  // The version that the next press is about.
  for (const [name, value] of new FormData(fresh).entries()) {
    const hidden = form.elements.namedItem(name);
    if (hidden instanceof HTMLInputElement && hidden.type === 'hidden' && typeof value === 'string')
      hidden.value = value;
  }
  return merged;
}

/** The same form on the same page as it is made now; null where it is not there any more. */
export async function freshForm(form: HTMLFormElement): Promise<HTMLFormElement | null> {
  const answer = await fetch(location.href, { headers: { accept: 'text/html' } }).catch(() => null);
  if (!answer?.ok) return null;
  const page = new DOMParser().parseFromString(await answer.text(), 'text/html');
  const same = [...page.querySelectorAll<HTMLFormElement>('form[data-api]')].filter(
    (f) => f.dataset.api === form.dataset.api && f.getAttribute('aria-label') === form.getAttribute('aria-label'),
  );
  const here = [...document.querySelectorAll<HTMLFormElement>('form[data-api]')].filter(
    (f) => f.dataset.api === form.dataset.api && f.getAttribute('aria-label') === form.getAttribute('aria-label'),
  );
  return same[here.indexOf(form)] ?? null;
}

/** Somebody changed it first: what is theirs comes into the form, and where both differ both are told. */
export async function bothSay(form: HTMLFormElement, told: HTMLElement): Promise<void> {
  const fresh = await freshForm(form);
  if (!fresh) return;
  const { both, taken } = combine(form, fresh);
  told.textContent =
    both.length === 0
      ? `Someone else changed this meanwhile${taken.length > 0 ? `; their changes are now in the form: ${taken.join(', ')}` : ''}. Press again to save what is shown here.`
      : 'Someone else changed the same fields. What you entered is still here: press again to save it, or use theirs.';
  for (const b of both) {
    const line = document.createElement('span');
    line.className = 'block';
    line.textContent = `${b.name}: yours “${b.mine}”, theirs “${b.theirs}” `;
    const take = document.createElement('button');
    take.type = 'button';
    take.className = 'link';
    take.textContent = 'Use theirs';
    take.addEventListener('click', () => {
      b.take();
      line.remove();
    });
    line.append(take);
    told.append(line);
  }
  if (form.dataset.atOnce !== undefined && both.length > 0) {
    const mine = document.createElement('button');
    mine.className = 'btn btn-sm mt-1';
    mine.textContent = 'Save mine';
    told.append(mine);
  }
}
