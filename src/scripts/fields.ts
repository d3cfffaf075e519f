/** A field of a form that holds a value: what it shows, what stood there when the page was made. */
export type Field = HTMLInputElement | HTMLSelectElement | HTMLTextAreaElement;

export const isTick = (f: Field): f is HTMLInputElement =>
  f instanceof HTMLInputElement && (f.type === 'checkbox' || f.type === 'radio');

/** What stood in a field when its page was made. */
export function stoodIn(f: Field): string {
  if (isTick(f)) return String(f.defaultChecked);
  if (f instanceof HTMLSelectElement)
    return ([...f.options].find((o) => o.defaultSelected) ?? f.options[0])?.value ?? '';
  return f.defaultValue;
}
