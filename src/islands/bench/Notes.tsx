import { useEffect, useState } from 'react';
import type { Device } from './device';
import type { Photo } from './keep';

/** The longer side of a kept photograph, in pixels: enough to read a screw, small enough for any disk. */
const PHOTO_PX = 1600;

async function smaller(file: Blob): Promise<Blob> {
  const image = await createImageBitmap(file);
  const scale = Math.min(1, PHOTO_PX / Math.max(image.width, image.height));
  const canvas = document.createElement('canvas');
  canvas.width = Math.round(image.width * scale);
  canvas.height = Math.round(image.height * scale);
  canvas.getContext('2d')?.drawImage(image, 0, 0, canvas.width, canvas.height);
  return new Promise((done, failed) =>
    canvas.toBlob((blob) => (blob ? done(blob) : failed(new Error('No picture came out.'))), 'image/jpeg', 0.85),
  );
}

/** Asks for what has to be known when it goes back: in words, and by photograph if one likes. */
export function NotesBox(p: {
  asks: readonly string[];
  noted: ReadonlyMap<string, string>;
  note: (asked: string, said: string) => void;
  device: Device;
  jobId: number;
  step: string;
}) {
  const [photos, setPhotos] = useState(p.device.photos);
  const [trouble, setTrouble] = useState<string | null>(null);
  const add = async (file: File | undefined) => {
    if (!file) return;
    try {
      const photo = await p.device.keep.addPhoto({ jobId: p.jobId, step: p.step, blob: await smaller(file) });
      p.device.photos.push(photo);
      setPhotos([...p.device.photos]);
      setTrouble(null);
    } catch {
      setTrouble('That picture could not be kept: it is no picture, or the disk is full. Write it down instead.');
    }
  };
  return (
    <section className="card-paper px-4 py-3 mt-3 max-w-[44em] grid gap-2 text-lg" aria-label="Write down">
      {p.asks.map((asked) => (
        <label key={asked} className="grid gap-x-3 items-center md:grid-cols-[1fr_1fr]">
          <span>{asked}</span>
          <input
            className="input min-h-14 w-full text-lg"
            maxLength={300}
            defaultValue={p.noted.get(asked) ?? ''}
            placeholder="as it is now"
            onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
            onBlur={(e) => {
              const said = e.currentTarget.value.trim();
              if (said !== (p.noted.get(asked) ?? '')) p.note(asked, said);
            }}
          />
        </label>
      ))}
      <div className="flex flex-wrap items-center gap-3">
        <label className="btn min-h-14 text-lg">
          Photograph
          <input
            type="file"
            accept="image/*"
            capture="environment"
            className="sr-only"
            onChange={(e) => void add(e.currentTarget.files?.[0])}
          />
        </label>
        <span className="muted text-base">Stays on this device.</span>
        <Photos
          photos={photos}
          remove={(id) => {
            p.device.photos = p.device.photos.filter((x) => x.id !== id);
            setPhotos(p.device.photos);
            void p.device.keep.removePhoto(id);
          }}
        />
      </div>
      {trouble && <p className="text-error">{trouble}</p>}
    </section>
  );
}

function Photos({ photos, remove }: { photos: readonly Photo[]; remove?: (id: number) => void }) {
  const [urls, setUrls] = useState<string[]>([]);
  useEffect(() => {
    const made = photos.map((x) => URL.createObjectURL(x.blob));
    setUrls(made);
    return () => {
      for (const url of made) URL.revokeObjectURL(url);
    };
  }, [photos]);
  return photos.map((photo, i) => (
    <span key={photo.id} className="inline-flex items-center gap-1">
      <a href={urls[i]} target="_blank" rel="noreferrer" aria-label={`Photograph ${i + 1}, full size`}>
        <img src={urls[i]} alt={`As found, ${i + 1}`} className="h-16 rounded" />
      </a>
      {remove && (
        <button
          type="button"
          className="btn btn-ghost min-h-14"
          onClick={() => remove(photo.id as number)}
          aria-label={`Remove photograph ${i + 1}`}
        >
          remove
        </button>
      )}
    </span>
  ));
}

/** What was written down, where it goes back on. */
export function AsFound({ noted, device }: { noted: ReadonlyMap<string, string>; device: Device }) {
  const said = [...noted].filter(([, text]) => text);
  if (said.length === 0 && device.photos.length === 0) return null;
  return (
    <div className="mt-2 text-lg muted flex flex-wrap items-center gap-3 max-w-[44em]">
      <span>
        <b>As found:</b> {said.map(([asked, text]) => `${asked.toLowerCase()}: ${text}`).join('; ')}
      </span>
      <Photos photos={device.photos} />
    </div>
  );
}
