import { NextResponse, type NextRequest } from 'next/server';

/** What a page may load: its own scripts by their nonce, WebAssembly, workers and pictures of its own making; nothing from elsewhere. */
const policyOf = (nonce: string): string =>
  [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic' 'wasm-unsafe-eval'`,
    // Emotion writes its rules into the page
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' blob: data:",
    "media-src 'self' blob:",
    "font-src 'self'",
    "connect-src 'self' blob: data:",
    "worker-src 'self' blob:",
    "manifest-src 'self'",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ');

/** Files are read, nothing is written here: other methods are refused. Pages get a policy with a fresh nonce. */
export function proxy(request: NextRequest): NextResponse {
  if (request.method !== 'GET' && request.method !== 'HEAD') return new NextResponse(null, { status: 405, headers: { Allow: 'GET, HEAD' } });
  const path = request.nextUrl.pathname;
  // scripts have policies of their own (next.config.ts); what else has a dot in its name may be a file, or a page that says there is none
  if (path.startsWith('/_next/') || path === '/offline.js' || path === '/preview.html' || path.startsWith('/onnx/')) return NextResponse.next();
  const policy = policyOf(Buffer.from(crypto.randomUUID()).toString('base64'));
  const headers = new Headers(request.headers);
  // Next reads the nonce from here and gives it to its own scripts
  headers.set('Content-Security-Policy', policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set('Content-Security-Policy', policy);
  return response;
}
