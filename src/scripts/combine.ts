/** A field of a form that holds a value: what it shows, what stood there when the page was made. */
type Field = HTMLInputElement | HTMLSelectElement | HTMLTextAreaElement;

const isTick = (f: Field): f is HTMLInputElement =>
  f instanceof HTMLInputElement && (f.type === 'checkbox' || f.type === 'radio');

const fieldsOf = (form: HTMLFormElement): Field[] =>
  [...form.elements].filter(
    (f): f is Field =>
      (f instanceof HTMLInputElement || f instanceof HTMLSelectElement || f instanceof HTMLTextAreaElement) &&
      f.name !== '' &&
      !(f instanceof HTMLInputElement && ['hidden', 'file', 'password', 'submit'].includes(f.type)),
  );

const standsIn = (f: Field): string => (isTick(f) ? String(f.checked) : f.value);

/** What stood in a field when its page was made. */
export function stoodIn(f: Field): string {
  if (isTick(f)) return String(f.defaultChecked);
  if (f instanceof HTMLSelectElement)
    return ([...f.options].find((o) => o.defaultSelected) ?? f.options[0])?.value ?? '';
  return f.defaultValue;
}

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
