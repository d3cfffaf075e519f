import { Command } from '../ui/command';

/**
 * Forms with `data-api` send themselves as JSON, as a command: a double click or a retry after a lost answer counts
 * once. Then they go where `data-then` or the answer says.
 */
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

async function send(form: HTMLFormElement, submitter: HTMLElement | null): Promise<void> {
  const command = commands.get(form) ?? new Command();
  commands.set(form, command);
  if (command.state().busy) return;
  // Ticks of the same name are one list, said as one text.
  const data = new FormData(form, submitter);
  const body = Object.fromEntries([...new Set(data.keys())].map((name) => [name, data.getAll(name).join(',')]));
  const result = await command.run<{ location?: string; jobId?: number; code?: string }>(
    form.dataset.api as string,
    body,
  );
  const { says } = command.state();
  if (says) messageOf(form).textContent = says;
  if (!result) return;
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
document.addEventListener('keydown', (event) => {
  const target = event.target as HTMLElement;
  if (event.key !== '/' || event.ctrlKey || event.metaKey || target.closest('input, textarea, select')) return;
  const box = document.querySelector<HTMLInputElement>('#jump');
  if (!box) return;
  event.preventDefault();
  box.focus();
  box.select();
});

// What the horizon decides on a page that is made on the server is made again.
window.addEventListener('arvick:horizon-saved', () => {
  if (document.querySelector('[data-horizon="server"]')) location.reload();
});
