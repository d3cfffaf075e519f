import { matchKeyBindingPress, parseKeybinding } from 'tinykeys';

/**
 * What keys do on a screen, by their names as KeyboardEvent has them (`Escape`, `Space`, `l`, `([1-9])`), the first that
 * fits. One that answers `false` had nothing to do: the browser does with it what it always does.
 */
export type HotKeys = Readonly<Record<string, (key: string) => unknown>>;

/** Where keys are typed, or have a meaning of their own. */
const TYPING = 'input, textarea, select, [contenteditable], [data-own-keys], dialog[open]';
/** What Space and Enter press when it has the focus. */
const PRESSABLE = 'button, a, summary';

/**
 * Does what a key is there for; answers whether there was something. Nothing while somebody types, while a focused
 * button means the key, or while another key is held that makes another command of it; Shift makes none, since on some
 * keyboards digits need it. A key held down, or a foot left on the pedal, is one press.
 */
export function pressed(keys: HotKeys, event: KeyboardEvent): boolean {
  // What a browser fills in by itself comes as an event without a key.
  if (!event.key || event.isComposing) return false;
  const target = event.target as Element | null;
  if (target?.closest?.(TYPING)) return false;
  if ((event.key === ' ' || event.key === 'Enter') && target?.closest?.(PRESSABLE)) return false;
  const found = Object.keys(keys).find((name) => {
    const [press] = parseKeybinding(name);
    if (!press) return false;
    const [mods, key] = press;
    return matchKeyBindingPress(event, [mods, key]) || matchKeyBindingPress(event, [['Shift', ...mods], key]);
  });
  if (found === undefined) return false;
  const done = event.repeat || keys[found]?.(event.key) !== false;
  if (done) event.preventDefault();
  return done;
}
