/// <reference lib="webworker" />
import { CacheFirst, NavigationRoute, NetworkFirst, PrecacheRoute, Route, Serwist, type PrecacheEntry } from 'serwist';

declare const self: ServiceWorkerGlobalScope & { readonly __SW_MANIFEST: (PrecacheEntry | string)[] };
/** what estimates, faces and light from all round are made with, as it is asked for; told by the build */
declare const MODELS: readonly string[];

/**
 * Keeps the application for when there is no network: every script, style, font and model with the first visit, pages by their own policy, the demo
 * as it is used. What a person made is kept by the page itself, not here.
 */
const serwist = new Serwist({
  clientsClaim: true,
  // a newer version waits until the person takes it
  skipWaiting: false,
});

// a worker reads in its own address what to load, which a kept answer would take from it: it gets a fresh one
serwist.registerRoute(
  new Route(
    ({ request, sameOrigin }) => sameOrigin && request.destination === 'worker',
    async ({ request }) => {
      const address = request.url.replace(/[?#].*/, '');
      // threads of what runs networks begin with a script that was kept when it was wanted first
      const kept = (await serwist.matchPrecache(address)) ?? (await caches.match(address, { cacheName: 'onnx' })) ?? (await fetch(request.url));
      return new Response(kept.body, { status: kept.status, headers: kept.headers });
    },
  ),
);
serwist.addToPrecacheList(self.__SW_MANIFEST);
serwist.registerRoute(new PrecacheRoute(serwist));
serwist.registerRoute(
  new Route(({ url, sameOrigin }) => sameOrigin && /^\/(models|face|surroundings)\//.test(url.pathname), new CacheFirst({ cacheName: 'models' })),
);
// what runs networks of somebody's own is large: it is kept when it was wanted once, and asked for anew where there is a network
serwist.registerRoute(new Route(({ url, sameOrigin }) => sameOrigin && url.pathname.startsWith('/onnx/'), new NetworkFirst({ cacheName: 'onnx' })));
serwist.registerRoute(new Route(({ url, sameOrigin }) => sameOrigin && url.pathname.startsWith('/demo/'), new NetworkFirst({ cacheName: 'demo' })));

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

const pathOf = (address: string): string => {
  const { pathname, search } = new URL(address);
  return pathname + search;
};

self.addEventListener('install', (event) => {
  // where the browser can, it takes scripts and fonts from the cache itself, without waking this worker for each of a hundred files
  const routes = event as ExtendableEvent & { addRoutes?: (rules: object) => Promise<void> };
  if (routes.addRoutes)
    event.waitUntil(
      routes
        .addRoutes({
          condition: { urlPattern: { pathname: '/_next/static/*', search: '' } },
          source: { cacheName: serwist.precacheStrategy.cacheName },
        })
        .catch(() => undefined),
    );
  event.waitUntil(
    (async () => {
      const cache = await caches.open('models');
      for (const kept of await cache.keys()) if (!MODELS.includes(pathOf(kept.url))) await cache.delete(kept);
      for (const path of MODELS) if (!(await cache.match(path))) await cache.add(path);
    })(),
  );
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
