/** Looks for a label so many times a second; more warms the device and finds it no sooner. */
const LOOKS_A_SECOND = 6;
/** Pictures are made as small as a label held at arm's length allows. */
const LOOK_WIDTH = 640;

/** What a label says: a tag, or the address of a page of this programme. */
export function placeOfCode(code: string, origin: string): string {
  const address = URL.canParse(code) ? new URL(code) : null;
  if (address && (address.protocol === 'http:' || address.protocol === 'https:')) {
    // The programme may be reached under other names: the way on it counts, and it stays on this one.
    const path = /^\/(?:instruments|r)\/[^/?#]+/.exec(address.pathname)?.[0];
    if (path && address.origin !== origin) return path;
    if (address.origin === origin) return address.pathname;
  }
  return `/jump?q=${encodeURIComponent(code.slice(0, 200))}`;
}

/** Reads a label through the camera and goes to what it names. Nothing of the picture is kept or sent. */
export async function readLabel(dialog: HTMLDialogElement): Promise<void> {
  const video = dialog.querySelector('video');
  const says = dialog.querySelector<HTMLElement>('[role=status]');
  if (!video || !says || dialog.open) return;
  let stream: MediaStream | null = null;
  let timer: ReturnType<typeof setInterval> | undefined;
  const stop = () => {
    clearInterval(timer);
    for (const track of stream?.getTracks() ?? []) track.stop();
    stream = null;
    video.srcObject = null;
  };
  dialog.addEventListener('close', stop, { once: true });
  says.textContent = 'Hold a label up to the camera.';
  dialog.showModal();
  const asked = await navigator.mediaDevices
    .getUserMedia({ video: { facingMode: 'environment' }, audio: false })
    .catch((error: DOMException) => error);
  if (!(asked instanceof MediaStream)) {
    says.textContent =
      asked.name === 'NotAllowedError'
        ? 'Camera blocked: allow it for this page in the browser, or type the tag.'
        : 'No camera found. Type the tag, or use a label reader.';
    return;
  }
  if (!dialog.open) {
    for (const track of asked.getTracks()) track.stop();
    return;
  }
  stream = asked;
  video.srcObject = asked;
  await video.play().catch(() => {});
  const { default: read } = await import('jsqr');
  const canvas = document.createElement('canvas');
  const draw = canvas.getContext('2d', { willReadFrequently: true });
  timer = setInterval(() => {
    if (!draw || video.videoWidth === 0) return;
    const scale = Math.min(1, LOOK_WIDTH / video.videoWidth);
    canvas.width = Math.round(video.videoWidth * scale);
    canvas.height = Math.round(video.videoHeight * scale);
    draw.drawImage(video, 0, 0, canvas.width, canvas.height);
    const picture = draw.getImageData(0, 0, canvas.width, canvas.height);
    const found = read(picture.data, picture.width, picture.height, { inversionAttempts: 'dontInvert' });
    const code = found?.data.trim();
    if (!code) return;
    stop();
    says.textContent = `Read: ${code.slice(0, 60)}`;
    location.assign(placeOfCode(code, location.origin));
  }, 1000 / LOOKS_A_SECOND);
}
