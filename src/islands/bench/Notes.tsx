import { useCallback, useEffect, useState } from 'react';
import { sayDay } from '../../../core/dates';
import { tagPath } from '../../../core/instruments/tag';
import { factName } from '../../../core/procedures/facts';
import { lowerFirst } from '../../../core/sentence';
import type { FoundBefore } from '../../../server/fleet/facts';
import { Told } from '../../ui/Told';
import { useCommand } from '../../ui/useCommand';
import type { Device } from './device';
import type { Photo } from './keep';
import { keepPhoto, sendPhotos, takeAway } from './photos';

/** Asks for what has to be known when it goes back: in words, and by photograph if one likes. */
export function NotesBox(p: {
  asks: readonly string[];
  noted: ReadonlyMap<string, string>;
  note: (asked: string, said: string) => void;
  before: FoundBefore;
  tag: string;
  today: string;
  device: Device;
  jobId: number;
  personId: number;
  step: string;
}) {
  const [photos, setPhotos] = useState(p.device.photos);
  const [trouble, setTrouble] = useState<string | null>(null);
  const { device } = p;
  const again = useCallback(async () => {
    const refused = await sendPhotos(device.keep);
    device.photos = await device.keep.photos(p.jobId);
    setPhotos(device.photos);
    const [why] = device.photos.flatMap((x) => refused.get(x.id as number) ?? []);
    if (why) setTrouble(why);
  }, [device, p.jobId]);
  useEffect(() => {
    void again();
    window.addEventListener('online', again);
    const timer = setInterval(again, 30_000);
    return () => {
      window.removeEventListener('online', again);
      clearInterval(timer);
    };
  }, [again]);
  const add = async (file: File | undefined) => {
    if (!file) return;
    try {
      const photo = await keepPhoto(device.keep, { jobId: p.jobId, step: p.step, personId: p.personId, file });
      device.photos = [...device.photos, photo];
      setPhotos(device.photos);
      setTrouble(null);
      void again();
    } catch {
      setTrouble('The photo was not kept: it is not an image, or this device is full. Write a note instead.');
    }
  };
  const waiting = photos.filter((x) => x.sent === undefined).length;
  return (
    <section className="card-paper px-4 py-3 mt-3 max-w-[44em] grid gap-2 text-lg" aria-label="What to note">
      {p.asks.map((asked) => (
        <Asked
          key={asked}
          asked={asked}
          said={p.noted.get(asked) ?? ''}
          note={(said) => p.note(asked, said)}
          before={p.before}
          tag={p.tag}
          today={p.today}
        />
      ))}
      <div className="flex flex-wrap items-center gap-3">
        <label className="btn min-h-14 text-lg">
          Take a photo
          <input
            type="file"
            accept="image/*"
            capture="environment"
            className="sr-only"
            onChange={(e) => void add(e.currentTarget.files?.[0])}
          />
        </label>
        {photos.length > 0 && (
          <span className="muted text-base" role="status">
            {waiting === 0
              ? 'Saved with the instrument.'
              : `${waiting} on this device only; sent when you are back online.`}
          </span>
        )}
        <Photos
          photos={photos}
          remove={async (photo) => {
            if (!(await takeAway(device.keep, photo)))
              return setTrouble(
                'No answer from the server. The photo is still there; try again when you are back online.',
              );
            device.photos = device.photos.filter((x) => x.id !== photo.id);
            setPhotos(device.photos);
          }}
        />
      </div>
      {p.before.photos.length > 0 && (
        <div className="flex flex-wrap items-center gap-2 text-base">
          <span className="muted">Earlier:</span>
          {p.before.photos.map((photo) => (
            <a key={photo.id} href={`/photos/${photo.hash}`} target="_blank" rel="noreferrer">
              <img
                src={`/photos/${photo.hash}`}
                alt={`${sayDay(photo.on, p.today)}, ${photo.by}`}
                className="h-16 rounded"
                loading="lazy"
              />
            </a>
          ))}
        </div>
      )}
      {trouble && (
        <p className="text-error" role="alert">
          {trouble}
        </p>
      )}
    </section>
  );
}

/** One thing to be written down, with how it was before, and kept as a fact of the instrument if one likes. */
function Asked({
  asked,
  said,
  note,
  before,
  tag,
  today,
}: {
  asked: string;
  said: string;
  note: (said: string) => void;
  before: FoundBefore;
  tag: string;
  today: string;
}) {
  const { run, busy, says } = useCommand();
  const [kept, setKept] = useState(before.facts[asked]?.said ?? null);
  const fact = before.facts[asked];
  const last = before.last[asked];
  const known = fact ?? last;
  return (
    <div className="grid gap-x-3 items-start md:grid-cols-[1fr_1fr]">
      <label className="contents">
        <span className="pt-3">{factName(asked)}</span>
        <input
          className="input min-h-14 w-full text-lg"
          maxLength={300}
          defaultValue={said}
          placeholder="as it is now"
          onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
          onBlur={(e) => {
            const now = e.currentTarget.value.trim();
            if (now !== said) note(now);
          }}
        />
      </label>
      <div className="md:col-start-2 text-base flex flex-wrap items-center gap-x-3">
        {known && (
          <span className="muted">
            {fact ? 'On record for this instrument' : 'Last time'}: {known.said} ({sayDay(known.on, today)}, {known.by})
          </span>
        )}
        {said && said !== kept && (
          <button
            type="button"
            className="btn btn-sm min-h-11"
            disabled={busy}
            onClick={async () => {
              if (await run(`/api/instruments/${tagPath(tag)}/facts`, { asked, said })) setKept(said);
            }}
          >
            Always the case: save it for {tag}
          </button>
        )}
        {said && said === kept && <span className="muted">Saved for {tag}.</span>}
        <Told says={says} />
      </div>
    </div>
  );
}

function Photos({ photos, remove }: { photos: readonly Photo[]; remove?: (photo: Photo) => Promise<void> }) {
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
      <a href={urls[i]} target="_blank" rel="noreferrer" aria-label={`Photo ${i + 1}, full size`}>
        <img src={urls[i]} alt={`As found, ${i + 1}`} className="h-16 rounded" />
      </a>
      {remove && (
        <button
          type="button"
          className="btn btn-ghost min-h-14"
          onClick={() => void remove(photo)}
          aria-label={`Remove photo ${i + 1}`}
        >
          remove
        </button>
      )}
    </span>
  ));
}

/** What was written down, where it goes back on; what is a fact of the instrument, where nothing was written this time. */
export function AsFound({
  noted,
  before,
  device,
}: {
  noted: ReadonlyMap<string, string>;
  before: FoundBefore;
  device: Device;
}) {
  const facts = Object.entries(before.facts).filter(([asked]) => !noted.get(asked));
  const said = [...[...noted].filter(([, text]) => text), ...facts.map(([asked, f]) => [asked, f.said] as const)];
  if (said.length === 0 && device.photos.length === 0) return null;
  return (
    <div className="mt-2 text-lg muted flex flex-wrap items-center gap-3 max-w-[44em]">
      <span>
        <b>As found:</b> {said.map(([asked, text]) => `${lowerFirst(factName(asked))}: ${text}`).join('; ')}
      </span>
      <Photos photos={device.photos} />
    </div>
  );
}
