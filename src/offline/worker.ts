/// <reference lib="webworker" />
import { CacheFirst, NavigationRoute, NetworkFirst, Serwist, type PrecacheEntry } from 'serwist';

declare const self: ServiceWorkerGlobalScope & { readonly __SW_MANIFEST: (PrecacheEntry | string)[] };

/**
 * Keeps the application for when there is no network: every script, style and font with the first visit, pages by their own policy, the demo
 * and the models as they are used. What a person made is kept by the page itself, not here.
 */
const serwist = new Serwist({
  precacheEntries: self.__SW_MANIFEST,
  clientsClaim: true,
  // a newer version waits until the person takes it
  skipWaiting: false,
  runtimeCaching: [
    { matcher: ({ url, sameOrigin }) => sameOrigin && /^\/(demo|models|face)\//.test(url.pathname), handler: new CacheFirst({ cacheName: 'files' }) },
  ],
});

// what a page shows depends on its address alone in the browser: one copy serves every shot
const pages = new NetworkFirst({
  cacheName: 'pages',
  networkTimeoutSeconds: 4,
  plugins: [
    {
      cacheKeyWillBeUsed: ({ request }) => Promise.resolve(new URL(request.url).pathname),
      // a page that was refused is none to keep
      cacheWillUpdate: ({ response }) => Promise.resolve(response.ok ? response : null),
    },
  ],
});
serwist.registerRoute(new NavigationRoute(pages));

self.addEventListener('install', (event) => {
  // both pages are there after the first visit, whichever it was
  event.waitUntil(
    (async () => {
      const cache = await caches.open('pages');
      for (const path of ['/', '/shot']) {
        const response = await fetch(path, { cache: 'no-store' });
        if (response.ok) await cache.put(path, response);
      }
    })(),
  );
});

serwist.addEventListeners();
