/** What a command told: why it was not done, or that no answer came. Said aloud to screen readers. */
export function Told({ says, className = '' }: { says: string | null; className?: string }) {
  if (!says) return null;
  return (
    <p role="alert" className={`text-error ${className}`}>
      {says}
    </p>
  );
}
