import { useEffect, useEffectEvent } from 'react';
import { type HotKeys, pressed } from './hotKeys';

/** Keys of a screen for as long as it is there, or as long as it is its turn; always those of what is drawn now. */
export function useHotKeys(keys: HotKeys, turn = true): void {
  const press = useEffectEvent((event: KeyboardEvent) => void pressed(keys, event));
  useEffect(() => {
    if (!turn) return;
    const onKey = (event: KeyboardEvent) => press(event);
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [turn]);
}
