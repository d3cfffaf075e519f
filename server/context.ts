import { AsyncLocalStorage } from 'node:async_hooks';

/** What a line of the log says of the request that it was written in: its number, and who asks, by number only. */
interface RequestContext {
  request: string;
  person?: number;
}

const storage = new AsyncLocalStorage<RequestContext>();

/** Runs the answer to a request, so that whatever is logged on the way tells which it was. */
export const inRequest = <T>(request: RequestContext, run: () => T): T => storage.run(request, run);

/** The request that is answered here; undefined where nobody asked. */
export const requestNow = (): RequestContext | undefined => storage.getStore();
