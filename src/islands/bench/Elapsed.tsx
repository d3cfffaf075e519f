import { useEffect, useState } from 'react';

/** Minutes since an instant. */
export function Elapsed({ since }: { since: number }) {
  const [text, setText] = useState('');
  useEffect(() => {
    const tick = () => {
      const minutes = Math.max(0, Math.floor((Date.now() - since) / 60_000));
      setText(minutes < 600 ? `${minutes} min` : 'open for over 10 hours');
    };
    tick();
    const timer = setInterval(tick, 20_000);
    return () => clearInterval(timer);
  }, [since]);
  return <span className="tag">{text}</span>;
}
