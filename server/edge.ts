import type { IncomingMessage } from 'node:http';
import { isIP } from 'node:net';

type Asking = Pick<IncomingMessage, 'headers'> & {
  socket: { remoteAddress?: string | undefined; encrypted?: boolean };
};

const lastOf = (header: string | string[] | undefined): string =>
  (Array.isArray(header) ? header.join(',') : (header ?? '')).split(',').at(-1)?.trim() ?? '';

/**
 * Leaves in a request's headers only what is known of who asks and how: from the socket, or, behind a proxy, from the
 * last entry of what that proxy says (those before it anybody may have written). Everything after this reads
 * `x-forwarded-for` and `x-forwarded-proto`, each with exactly one value.
 * @example
 * ```ts
 * const request = { headers: { 'x-forwarded-for': '203.0.113.9' }, socket: { remoteAddress: '192.0.2.1' } };
 * keepTrusted(request, { proxy: false });
 * request.headers['x-forwarded-for']; // '192.0.2.1'
 * ```
 */
export function keepTrusted(request: Asking, { proxy }: { proxy: boolean }): void {
  const { headers, socket } = request;
  const said = { address: lastOf(headers['x-forwarded-for']), protocol: lastOf(headers['x-forwarded-proto']) };
  for (const name of Object.keys(headers)) if (/^(x-forwarded-|forwarded$|x-real-ip$)/.test(name)) delete headers[name];
  headers['x-forwarded-for'] = proxy && isIP(said.address) !== 0 ? said.address : (socket.remoteAddress ?? 'unknown');
  headers['x-forwarded-proto'] = (proxy ? said.protocol === 'https' : socket.encrypted === true) ? 'https' : 'http';
}
