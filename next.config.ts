import type { NextConfig } from 'next';

/** For everything that is served. Pages get their own policy besides (src/proxy.ts). */
const everywhere = [
  // cross-origin isolation lets the page share pixel buffers with its workers
  { key: 'Cross-Origin-Opener-Policy', value: 'same-origin' },
  { key: 'Cross-Origin-Embedder-Policy', value: 'require-corp' },
  { key: 'Cross-Origin-Resource-Policy', value: 'same-origin' },
  { key: 'X-Content-Type-Options', value: 'nosniff' },
  { key: 'X-Frame-Options', value: 'DENY' },
  { key: 'Referrer-Policy', value: 'no-referrer' },
];

/** For scripts: a worker takes the policy that its script came with. Live devices of this machine are reached by one. */
const scripts =
  "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; connect-src 'self' blob: data: ws://localhost:* ws://127.0.0.1:*; img-src 'self' blob: data:; worker-src 'self' blob:; object-src 'none'; base-uri 'none'; frame-ancestors 'none'";

/** For what shows a page that was made: it runs what stands in it, in a place of its own, and reaches nothing. */
const preview =
  "default-src 'none'; script-src 'unsafe-inline'; style-src 'unsafe-inline'; img-src data: blob:; connect-src 'none'; base-uri 'none'; form-action 'none'; frame-ancestors 'self'; sandbox allow-scripts";

const config: NextConfig = {
  reactStrictMode: true,
  devIndicators: false,
  poweredByHeader: false,
  // pictures are decoded by the page itself
  images: { unoptimized: true },
  // the type check is a step of its own (npm run typecheck)
  typescript: { ignoreBuildErrors: true },
  headers: async () => [
    { source: '/:path*', headers: everywhere },
    {
      source: '/preview.html',
      headers: [
        { key: 'Content-Security-Policy', value: preview },
        { key: 'X-Frame-Options', value: 'SAMEORIGIN' },
      ],
    },
    { source: '/_next/static/:path*', headers: [{ key: 'Content-Security-Policy', value: scripts }] },
    { source: '/onnx/:path*', headers: [{ key: 'Content-Security-Policy', value: scripts }] },
    {
      source: '/offline.js',
      headers: [
        { key: 'Content-Security-Policy', value: scripts },
        { key: 'Cache-Control', value: 'no-cache' },
      ],
    },
  ],
};

export default config;
