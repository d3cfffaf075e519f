import { Command } from '../ui/command';
import { pressed } from '../ui/hotKeys';
import { combine, freshForm, stoodIn } from './combine';

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
    await bothSay(form);
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

/** Somebody changed it first: what is theirs comes into the form, and where both differ both are told. */
async function bothSay(form: HTMLFormElement): Promise<void> {
  const fresh = await freshForm(form);
  if (!fresh) return;
  const { both, taken } = combine(form, fresh);
  const told = messageOf(form);
  told.textContent =
    both.length === 0
      ? `Somebody changed it meanwhile${taken.length > 0 ? `; now in the fields as well: ${taken.join(', ')}` : ''}. Press again to record what stands here.`
      : 'Somebody changed the same meanwhile. What you entered still stands here: press again to record it, or take theirs.';
  for (const b of both) {
    const line = document.createElement('span');
    line.className = 'block';
    line.textContent = `${b.name}: yours “${b.mine}”, theirs “${b.theirs}” `;
    const take = document.createElement('button');
    take.type = 'button';
    take.className = 'link';
    take.textContent = 'Take theirs';
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
    mine.textContent = 'Record mine';
    told.append(mine);
  }
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
    field instanceof HTMLInputElement && (field.type === 'checkbox' || field.type === 'radio')
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
