/** A key as it is drawn on a button. */
export function Key({ children }: { children: string }) {
  return <kbd className="kbd-key text-base">{children}</kbd>;
}
