// What stands before every answer, in production and in development: headers, and the refusal of foreign hosts and origins.

const LOOPBACK = /^(localhost|127\.0\.0\.1|\[::1\])(:\d+)?$/;

const HEADERS = {
  // Shared memory in the page needs cross-origin isolation, on everything.
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin',
  'X-Content-Type-Options': 'nosniff',
  'X-Frame-Options': 'DENY',
  'Referrer-Policy': 'no-referrer',
  'Permissions-Policy': 'camera=(), microphone=(), geolocation=()',
};

// The theme library writes style elements; scripts come from files of the application only.
const POLICY = [
  "default-src 'none'",
  "script-src 'self' 'wasm-unsafe-eval'",
  "style-src 'self' 'unsafe-inline'",
  "img-src 'self' data: blob:",
  "font-src 'self' data:",
  "connect-src 'self'",
  "worker-src 'self' blob:",
  "base-uri 'none'",
  "form-action 'none'",
  "frame-ancestors 'none'",
].join('; ');

const METHODS = ['GET', 'HEAD', 'POST', 'PUT', 'DELETE', 'OPTIONS'];

function refuse(response, status, message, reason, headers = {}) {
  response.statusCode = status;
  response.setHeader('Content-Type', 'application/json; charset=utf-8');
  for (const [name, value] of Object.entries(headers)) response.setHeader(name, value);
  response.end(JSON.stringify({ error: { tag: 'refused', message, fields: { reason }, cause: null } }));
  return false;
}

/** A link in a ticket or a mail that opens the page itself, in a tab of its own: it reads nothing and changes nothing. */
function isLink({ method, url = '/', headers }) {
  const opens = headers['sec-fetch-mode'] === 'navigate' && headers['sec-fetch-dest'] === 'document';
  if (!opens || (method !== 'GET' && method !== 'HEAD')) return false;
  try {
    // As the router reads it: encoded letters are letters.
    return !/^\/+api(?:\/|$)/i.test(decodeURIComponent(new URL(`http://127.0.0.1${url}`).pathname));
  } catch {
    return false;
  }
}

/** Returns false when it has answered already. */
export function guard(request, response, { development = false } = {}) {
  for (const [name, value] of Object.entries(HEADERS)) response.setHeader(name, value);
  if (!development) response.setHeader('Content-Security-Policy', POLICY);
  const host = request.headers.host ?? '';
  const origin = request.headers.origin;
  let foreign = !LOOPBACK.test(host);
  if (origin !== undefined && origin !== `http://${host}`) foreign = true;
  if (request.headers['sec-fetch-site'] === 'cross-site' && !isLink(request)) foreign = true;
  if (foreign) return refuse(response, 403, 'Ruddle answers its own page on this machine only.', 'foreign');
  if (!METHODS.includes(request.method)) {
    return refuse(response, 405, `Ruddle knows no ${request.method}.`, 'method', { Allow: METHODS.join(', ') });
  }
  return true;
}
