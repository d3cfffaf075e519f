import { useState, useSyncExternalStore } from 'react';
import type { CommandState, Sending } from './command';
import { Command } from './command';
import type { Answered, Asked, CommandUrl } from './commands';

export interface UsedCommand extends CommandState {
  /** Sends it; null where it was not done, with the reason in `says`. */
  run: <U extends CommandUrl>(url: U, body: Asked<U>, more?: Sending) => Promise<Answered<U> | null>;
  /** Forgets what was told. */
  quiet: () => void;
}

/** A command of a screen: key, busy, problem and silence are its own affair. */
export function useCommand(): UsedCommand {
  const [command] = useState(() => new Command());
  const state = useSyncExternalStore(command.subscribe, command.state, command.state);
  return { ...state, run: command.run as UsedCommand['run'], quiet: command.quiet };
}
