import { Command } from '../ui/command';
import { pressed } from '../ui/hotKeys';
import { isTick, stoodIn } from './fields';

/** Where a form says what became of it. */
function messageOf(form: HTMLFormElement): HTMLElement {
  const known = form.querySelector<HTMLElement>('[data-message]');
  if (known) return known;
  const made = document.createElement('p');
  made.dataset.message = '';
  made.setAttribute('role', 'alert');
  made.className = 'text-error mt-1';
  form.append(made);
  return made;
}

const commands = new WeakMap<HTMLFormElement, Command>();

/**
 * Forms with `data-api` send themselves as JSON, as a command: a double click or a retry after a lost answer counts
 * once. Then they go where `data-then` or the answer says.
 */
async function send(form: HTMLFormElement, submitter: HTMLElement | null): Promise<void> {
  const command = commands.get(form) ?? new Command();
  commands.set(form, command);
  if (command.state().busy) return;
  // Ticks of the same name are one list, said as one text.
  const data = new FormData(form, submitter);
  const body = Object.fromEntries([...new Set(data.keys())].map((name) => [name, data.getAll(name).join(',')]));
  // Of single values: what whoever changes them has seen, so that nobody's change is lost to one who did not see it.
  if (form.dataset.seen !== undefined)
    body.was = form.dataset.seen
      .split('/')
      .map((name) => {
        const field = form.elements.namedItem(name);
        return field instanceof HTMLInputElement || field instanceof HTMLSelectElement ? stoodIn(field) : '';
      })
      .join('/');
  const result = await command.run<{ location?: string; jobId?: number; code?: string }>(
    form.dataset.api as string,
    body,
  );
  const { says, problem } = command.state();
  if (says) messageOf(form).textContent = says;
  if (problem?.status === 409 && (problem.currentVersion !== undefined || problem.seen !== undefined))
    await import('./combine').then((m) => m.bothSay(form, messageOf(form))).catch(() => {});
  if (!result) return;
  form.dataset.sent = '';
  // What was kept of pages for a time without a network has names in it.
  if ('signsOut' in form.dataset && 'caches' in window) await caches.delete('pages').catch(() => false);
  // What is told once stays on the screen: `data-shows` is its sentence.
  if (form.dataset.shows) {
    const told = messageOf(form);
    told.className = 'mt-1 font-semibold';
    told.textContent = form.dataset.shows.replace('{code}', result.code ?? '');
    return;
  }
  const then = result.location ?? (form.dataset.then ?? '').replace('{jobId}', String(result.jobId));
  if (then) location.assign(then);
  else location.reload();
}

document.addEventListener('submit', (event) => {
  const form = event.target as HTMLFormElement;
  if (!form.dataset.api) return;
  event.preventDefault();
  void send(form, event.submitter);
});

/** Whether something was entered in a form that is sent by a press, and not sent. */
function isUnsent(form: HTMLFormElement): boolean {
  if (form.dataset.atOnce !== undefined || commands.get(form)?.state().busy || form.dataset.sent !== undefined)
    return false;
  return [...form.elements].some((field) =>
    field instanceof HTMLInputElement && isTick(field)
      ? field.checked !== field.defaultChecked
      : field instanceof HTMLInputElement && (field.type === 'hidden' || field.type === 'password')
        ? false
        : (field instanceof HTMLInputElement ||
            field instanceof HTMLTextAreaElement ||
            field instanceof HTMLSelectElement) &&
          field.value !== stoodIn(field),
  );
}

/** Whether anything on the page was entered and not sent. */
export const hasUnsent = (): boolean =>
  [...document.querySelectorAll<HTMLFormElement>('form[data-api], form[data-shrinks]')].some(isUnsent);

// Whoever leaves with something entered and not sent is asked.
window.addEventListener('beforeunload', (event) => {
  if (hasUnsent()) event.preventDefault();
});

// Menus that act at once.
document.addEventListener('change', (event) => {
  const form = (event.target as HTMLElement).closest<HTMLFormElement>('form[data-at-once]');
  form?.requestSubmit();
});

// The tables of a page as a workbook: `data-workbook` names the file.
document.addEventListener('click', (event) => {
  const button = (event.target as HTMLElement).closest<HTMLElement>('[data-workbook]');
  if (!button) return;
  const tables = [...document.querySelectorAll<HTMLTableElement>('main table')];
  void import('./workbook').then(({ saveTables }) => saveTables(tables, `${button.dataset.workbook}.xlsx`));
});

// The jump box is one key away everywhere; a scanner types into it and presses Enter.
document.addEventListener('keydown', (event) =>
  pressed(
    {
      '/': () => {
        const box = document.querySelector<HTMLInputElement>('#jump');
        if (!box) return false;
        box.focus();
        return box.select();
      },
    },
    event,
  ),
);

// What the horizon decides on a page that is made on the server is made again.
window.addEventListener('arvick:horizon-saved', () => {
  if (document.querySelector('[data-horizon="server"]')) location.reload();
});
