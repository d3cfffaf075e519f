import { type ReactNode, useState } from 'react';

/** What is opened by its summary; what stands in it is made when it is first opened. */
export function Opens({
  says,
  children,
  ...more
}: {
  says: string;
  children: ReactNode;
  [data: `data-${string}`]: number;
}) {
  const [ever, setEver] = useState(false);
  return (
    <details className="card-paper px-4 py-2" onToggle={() => setEver(true)} {...more}>
      <summary className="link w-fit">{says}</summary>
      {ever && children}
    </details>
  );
}
