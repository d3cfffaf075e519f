import { newKey } from '../islands/key';

/**
 * Forms with `data-api` send themselves as JSON with an idempotency key that stays the same until an answer has come,
 * so a double click or a retry after a lost answer counts once. Then they go where `data-then` or the answer says.
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

async function send(form: HTMLFormElement, submitter: HTMLElement | null): Promise<void> {
  if (form.dataset.busy) return;
  form.dataset.busy = 'yes';
  form.dataset.key ??= newKey();
  // Ticks of the same name are one list, said as one text.
  const data = new FormData(form, submitter);
  const body = Object.fromEntries([...new Set(data.keys())].map((name) => [name, data.getAll(name).join(',')]));
  try {
    const answer = await fetch(form.dataset.api as string, {
      method: 'POST',
      headers: { 'content-type': 'application/json', 'idempotency-key': form.dataset.key },
      body: JSON.stringify(body),
    });
    const result = await answer.json().catch(() => ({}));
    delete form.dataset.key;
    if (!answer.ok) {
      messageOf(form).textContent = result.detail ?? 'That did not work. Try again.';
      return;
    }
    const then = result.location ?? (form.dataset.then ?? '').replace('{jobId}', result.jobId);
    if (then) location.assign(then);
    else location.reload();
  } catch {
    messageOf(form).textContent = 'No answer from the server. Press again: it will count once.';
  } finally {
    delete form.dataset.busy;
  }
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
