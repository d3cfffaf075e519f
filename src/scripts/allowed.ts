import { CHANGES, type ChangeName, mayChange, mayOpen, ROUTES, type Role } from '../../contract/permissions';

const patterns = Object.keys(ROUTES)
  .map((route) => ({
    route,
    fixed: !route.includes('['),
    pattern: new RegExp(`^${route.replace(/\[\w+\]/g, '[^/]+')}$`),
  }))
  // A fixed address is meant before one with a variable part.
  .sort((a, b) => Number(b.fixed) - Number(a.fixed));

/** Whether somebody of a role may open an address of this programme; what is not in the table is not judged here. */
export function mayGo(role: Role, href: string): boolean {
  const path = (href.split(/[?#]/)[0] ?? '/').replace(/(.)\/$/, '$1');
  const known = patterns.find((p) => p.pattern.test(path));
  if (known === undefined) return true;
  // What is done to the shelf has rules of its own, by what it is.
  const change = /^\/api\/(stock)\/([\w-]+)$/.exec(path)?.slice(1).join('.') ?? '';
  if (Object.hasOwn(CHANGES, change) && mayChange(role, change as ChangeName) === null) return false;
  return mayOpen(role, known.route);
}

/** Takes from a page what its reader may not do: the table says it, and so the server would. */
export function showAllowed(of: ParentNode, role: Role): void {
  for (const form of of.querySelectorAll<HTMLFormElement>('form[data-api]')) {
    if (mayGo(role, form.dataset.api ?? '')) continue;
    // A menu shows what holds, also to who does not change it.
    if (form.dataset.atOnce === undefined) form.hidden = true;
    else for (const field of form.elements) (field as HTMLInputElement).disabled = true;
  }
  for (const link of of.querySelectorAll<HTMLAnchorElement>('main a[href^="/"]'))
    if (!mayGo(role, link.getAttribute('href') ?? '')) link.hidden = true;
  // What opens to nothing.
  for (const details of of.querySelectorAll<HTMLDetailsElement>('main details')) {
    const forms = [...details.querySelectorAll<HTMLFormElement>('form[data-api]')];
    if (forms.length > 0 && forms.every((f) => f.hidden) && !details.querySelector('a[href]:not([hidden])'))
      details.hidden = true;
  }
}
