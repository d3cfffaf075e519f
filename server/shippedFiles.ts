import type { IncomingMessage, ServerResponse } from 'node:http';
import sirv from 'sirv';

/** Files with a hash in their name never change. */
const HASHED = '/_astro/';

/**
 * Serves what the app ships beside its pages: scripts, styles, fonts, pictures. They are known by name from the start, so
 * that a page's request asks no disk, and are sent as they were compressed when they were built, where the browser takes
 * it.
 * @param folder the built files
 */
export const shippedFiles = (
  folder: string,
): ((request: IncomingMessage, response: ServerResponse, next: () => void) => void) =>
  sirv(folder, {
    brotli: true,
    gzip: true,
    etag: true,
    setHeaders: (response, pathname) => {
      response.setHeader('x-content-type-options', 'nosniff');
      response.setHeader(
        'cache-control',
        pathname.startsWith(HASHED) ? 'public, max-age=31536000, immutable' : 'public, max-age=0, must-revalidate',
      );
    },
  });
