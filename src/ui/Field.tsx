import type { ReactNode } from 'react';

/**
 * A control with its name above it.
 *
 * @param note what is said beside the name, more quietly
 * @param large where it is the question of its screen, not one of many
 */
export function Field({
  label,
  note,
  large = false,
  className = '',
  children,
}: {
  label: ReactNode;
  note?: ReactNode;
  large?: boolean;
  className?: string;
  children: ReactNode;
}) {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the control is its child.
    <label className={`grid gap-1 ${className}`}>
      <span className={large ? '' : 'text-sm muted'}>
        {label} {note && <span className="muted">{note}</span>}
      </span>
      {children}
    </label>
  );
}
