import { useRef, useState } from 'react';
import { newKey } from '../../ui/key';
import type { ProblemAnswer } from '../../ui/post';
import { Told } from '../../ui/Told';

const PATIENCE_MS = 90_000;

/** Brings a list: chosen, or dropped here. */
export function DropFile() {
  const [busy, setBusy] = useState('');
  const [says, setSays] = useState<string | null>(null);
  const [over, setOver] = useState(false);
  // The same file again after a lost answer is the same intention.
  const intention = useRef<{ file: string; key: string } | null>(null);
  const send = async (file: File | undefined) => {
    if (!file || busy) return;
    setBusy(file.name);
    setSays(null);
    const what = `${file.name}/${file.size}/${file.lastModified}`;
    if (intention.current?.file !== what) intention.current = { file: what, key: newKey() };
    const answer = await fetch(`/api/intake?name=${encodeURIComponent(file.name.slice(-200))}`, {
      method: 'POST',
      headers: { 'idempotency-key': intention.current.key, 'content-type': 'application/octet-stream' },
      body: file,
      signal: AbortSignal.timeout(PATIENCE_MS),
    }).catch(() => null);
    const json = await answer?.json().catch(() => null);
    if (answer?.ok) return location.assign((json as { location: string }).location);
    setBusy('');
    if (answer) intention.current = null;
    setSays(
      (json as ProblemAnswer | null)?.detail ??
        'No answer from the server. Nothing was changed; choose the file again.',
    );
  };
  return (
    <section
      aria-label="Import a list"
      className={`card-paper p-6 border-dashed border-2 ${over ? 'border-primary' : ''}`}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        void send(e.dataTransfer.files[0]);
      }}
    >
      <label className="flex flex-wrap items-center gap-3">
        <span className="font-bold">{busy ? `Reading ${busy}` : 'Choose a list, or drop it here'}</span>
        <input
          type="file"
          className="file-input"
          accept=".csv,.tsv,.txt,.xlsx,text/csv"
          disabled={busy !== ''}
          onChange={(e) => {
            void send(e.target.files?.[0]);
            e.target.value = '';
          }}
        />
      </label>
      <Told says={says} className="mt-2" />
    </section>
  );
}
