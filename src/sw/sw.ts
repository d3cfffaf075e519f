/// <reference lib="webworker" />
import { ExpirationPlugin } from 'workbox-expiration';
import { cleanupOutdatedCaches, matchPrecache, type PrecacheEntry, precacheAndRoute } from 'workbox-precaching';
import { registerRoute, setCatchHandler } from 'workbox-routing';
import { NetworkFirst } from 'workbox-strategies';

// Put in at the build: every file the pages need.
declare const __FILES__: PrecacheEntry[];
declare const self: ServiceWorkerGlobalScope;

/** Pages that are needed where there is no network: the bench, and what leads to it. */
const KEPT = [/^\/$/, /^\/bench\//, /^\/instruments\/[^/]+$/];
const MOST_PAGES = 60;

precacheAndRoute(__FILES__);
cleanupOutdatedCaches();

/** Marks a page that comes out of the cache, so that it can say how old it is. */
const asKept = async (page: Response): Promise<Response> => {
  const text = await page.text();
  const seen = page.headers.get('date') ?? '';
  return new Response(text.replace('<html', `<html data-kept="${seen}"`), {
    headers: { 'content-type': 'text/html; charset=utf-8' },
  });
};

registerRoute(
  ({ request, url }) =>
    url.origin === self.location.origin &&
    (request.mode === 'navigate' || request.headers.get('accept')?.includes('text/html') === true) &&
    KEPT.some((path) => path.test(url.pathname)),
  new NetworkFirst({
    cacheName: 'pages',
    // A network that hangs is as good as none.
    networkTimeoutSeconds: 5,
    // A redirect or an error is never kept in place of a page.
    plugins: [
      { cacheWillUpdate: async ({ response }) => (response.status === 200 && !response.redirected ? response : null) },
      {
        cachedResponseWillBeUsed: async ({ cachedResponse }) =>
          cachedResponse ? asKept(cachedResponse) : (cachedResponse ?? null),
      },
      new ExpirationPlugin({ maxEntries: MOST_PAGES, purgeOnQuotaError: true }),
    ],
    // The mark behind an address (?recorded) makes no other page of it.
    matchOptions: { ignoreSearch: true },
  }),
);

setCatchHandler(async ({ request }) =>
  request.destination === 'document' ? ((await matchPrecache('/offline.html')) ?? Response.error()) : Response.error(),
);

self.addEventListener('install', () => void self.skipWaiting());
self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()));
