import { smaller } from '../islands/bench/picture';

/**
 * A form with a photograph that a page answers itself: the picture is made smaller before it goes, where the device can,
 * and a second press while it goes does nothing. Without a script it is sent as it is.
 */
export function sendOnce(form: HTMLFormElement): void {
  const input = form.querySelector<HTMLInputElement>('input[type=file]');
  let ready = Promise.resolve();
  let sent = false;
  input?.addEventListener('change', () => {
    const file = input.files?.[0];
    if (!file) return;
    ready = smaller(file)
      .then((small) => {
        const list = new DataTransfer();
        list.items.add(new File([small], 'picture.jpg', { type: 'image/jpeg' }));
        input.files = list.files;
      })
      .catch(() => {});
  });
  form.addEventListener('submit', (event) => {
    event.preventDefault();
    if (sent) return;
    sent = true;
    // Leaving by sending loses nothing.
    form.dataset.sent = '';
    void ready.then(() => form.submit());
  });
  // Back from where it led: it may be sent again, and counts once by its key.
  window.addEventListener('pageshow', () => {
    sent = false;
    delete form.dataset.sent;
  });
}
