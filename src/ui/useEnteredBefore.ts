import { type RefObject, useEffect } from 'react';

type Control = HTMLInputElement | HTMLSelectElement | HTMLTextAreaElement;

/** Sets a text field the way a person does, so that the component that controls it hears of it. */
function retype(field: HTMLInputElement | HTMLTextAreaElement): void {
  const entered = field.value;
  const prototype = Object.getPrototypeOf(field) as object;
  field.value = field.defaultValue;
  Object.getOwnPropertyDescriptor(prototype, 'value')?.set?.call(field, entered);
  field.dispatchEvent(new Event('input', { bubbles: true }));
}

function replay(control: Control): void {
  if (control instanceof HTMLSelectElement) {
    const chosen = control.selectedOptions[0];
    if (chosen && !chosen.defaultSelected) control.dispatchEvent(new Event('change', { bubbles: true }));
  } else if (control instanceof HTMLInputElement && (control.type === 'checkbox' || control.type === 'radio')) {
    if (control.checked === control.defaultChecked) return;
    control.checked = control.defaultChecked;
    control.click();
  } else if (control.value !== control.defaultValue) retype(control);
}

/**
 * Keeps what somebody ticked, chose or typed in a server-rendered component before its script was there: React keeps
 * it in the page and drops it at the next render, since its state does not know of it.
 * @param root the element whose fields are controlled by the component
 */
export function useEnteredBefore(root: RefObject<HTMLElement | null>): void {
  useEffect(() => {
    for (const control of root.current?.querySelectorAll<Control>('input:not([type=file]), select, textarea') ?? [])
      replay(control);
  }, [root]);
}
