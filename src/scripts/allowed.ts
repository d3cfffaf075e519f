import { mayGo, type Role } from '../../contract/permissions';

/** Whether a link is words among others: not a button, and not alone where it stands. */
const isPartOfText = (link: HTMLAnchorElement): boolean =>
  !link.classList.contains('btn') && link.parentElement?.textContent?.trim() !== link.textContent?.trim();

/** Takes from a page what its reader may not do: the table says it, and so the server would. */
export function showAllowed(of: ParentNode, role: Role): void {
  for (const form of of.querySelectorAll<HTMLFormElement>('form[data-api]')) {
    if (mayGo(role, form.dataset.api ?? '')) continue;
    // A menu shows what holds, also to who does not change it.
    if (form.dataset.atOnce === undefined) form.hidden = true;
    else for (const field of form.elements) (field as HTMLInputElement).disabled = true;
  }
  for (const link of of.querySelectorAll<HTMLAnchorElement>('main a[href^="/"]')) {
    if (mayGo(role, link.getAttribute('href') ?? '')) continue;
    // In a sentence or before one the words stay, without the way to the page.
    if (isPartOfText(link)) link.replaceWith(...link.childNodes);
    else link.hidden = true;
  }
  // What opens to nothing.
  for (const details of of.querySelectorAll<HTMLDetailsElement>('main details')) {
    const forms = [...details.querySelectorAll<HTMLFormElement>('form[data-api]')];
    if (forms.length > 0 && forms.every((f) => f.hidden) && !details.querySelector('a[href]:not([hidden])'))
      details.hidden = true;
  }
}
