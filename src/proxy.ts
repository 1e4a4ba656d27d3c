import { randomBytes } from 'node:crypto';
import { NextResponse, type NextRequest } from 'next/server';

const development = process.env.NODE_ENV === 'development';

/** Scripts are those of the application, told by a number used once; nothing comes from elsewhere. */
const policyFor = (nonce: string) =>
  [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}' 'wasm-unsafe-eval'${development ? " 'unsafe-eval'" : ''}`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data:",
    "font-src 'self'",
    `connect-src 'self'${development ? ' ws:' : ''}`,
    "worker-src 'self' blob:",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ');

/**
 * Requests for data pass by: this would hold back their bodies, which are sounds of any size.
 */
export const config = { matcher: '/((?!api/).*)' };

/** Adds the content security policy to requests for pages and files. */
export function proxy(request: NextRequest): Response {
  const policy = policyFor(randomBytes(16).toString('base64'));
  const headers = new Headers(request.headers);
  // Next takes the number for its own scripts from here.
  headers.set('Content-Security-Policy', policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set('Content-Security-Policy', policy);
  return response;
}
