import { newKey } from './key';
import { type Answer, type ProblemAnswer, post } from './post';

/** Where a command is: what is under way, and what was answered to the last press. */
export interface CommandState {
  busy: boolean;
  /** Why it was not done; null where it was, or where no answer came. */
  problem: ProblemAnswer | null;
  /** What to tell whoever pressed; null while there is nothing to tell. */
  says: string | null;
}

export interface Sending {
  /** How long an answer may take, in milliseconds. */
  patienceMs?: number;
  headers?: Record<string, string>;
}

const IDLE: CommandState = { busy: false, problem: null, says: null };
const SILENT = 'No answer from the server. Try again; it is recorded only once.';

/**
 * Sends what somebody means to be done, so that it is done once however often it is pressed. What is the same is one
 * intention with one key until an answer has come: a second press while it is under way does nothing, one after the
 * server was silent sends the same key again. A changed request, or one that was answered, is a new intention.
 */
export class Command {
  #state = IDLE;
  #intention: { what: string; key: string } | null = null;
  #listeners = new Set<() => void>();

  constructor(
    private readonly send: typeof post = post,
    private readonly fresh: () => string = newKey,
  ) {}

  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };
  readonly state = (): CommandState => this.#state;

  /** Forgets what was told, as when something is changed. */
  readonly quiet = (): void => {
    if (!this.#state.busy && this.#state !== IDLE) this.#set(IDLE);
  };

  /** @returns what the server answered; null where it was not done, or is under way already */
  readonly run = async <T>(url: string, body: unknown, more: Sending = {}): Promise<T | null> => {
    if (this.#state.busy) return null;
    const what = `${url} ${JSON.stringify(body)}`;
    if (this.#intention?.what !== what) this.#intention = { what, key: this.fresh() };
    this.#set({ busy: true, problem: null, says: null });
    const answer: Answer<T> = await this.send<T>(url, body, this.#intention.key, more.headers, more.patienceMs);
    if (answer.ok || answer.problem) this.#intention = null;
    this.#set(
      answer.ok
        ? IDLE
        : { busy: false, problem: answer.problem, says: answer.problem ? answer.problem.detail : SILENT },
    );
    // What is done and says nothing more is done all the same.
    return answer.ok ? (answer.value ?? ({} as T)) : null;
  };

  #set(state: CommandState): void {
    this.#state = state;
    for (const listener of this.#listeners) listener();
  }
}
