import { RuddleError } from '#core/errors';
import { parseWith } from '#core/shot';
import type { App } from '#server/app';
import type { z } from 'zod';

export interface RouteContext {
  readonly app: App;
  readonly request: Request;
  readonly params: Readonly<Record<string, string>>;
  readonly query: URLSearchParams;
}

export interface Route {
  readonly method: string;
  /** `/runs/:id/frames/:frame` */
  readonly path: string;
  readonly answer: (context: RouteContext) => Promise<unknown>;
}

/** Largest body that is read. */
const MAX_BODY = 4 * 1024 * 1024;

/** The request's JSON, validated. */
export async function body<T extends z.ZodType>(request: Request, schema: T): Promise<z.output<T>> {
  const length = Number(request.headers.get('content-length') ?? 0);
  if (length > MAX_BODY) throw new RuddleError('refused', 'The request is too large.', { reason: 'too large' });
  const text = await request.text();
  if (text.length > MAX_BODY) throw new RuddleError('refused', 'The request is too large.', { reason: 'too large' });
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (cause) {
    throw new RuddleError('settings-invalid', 'The request is not JSON.', { issues: [{ path: '', message: 'not JSON' }] }, cause);
  }
  return parseWith(schema, json, 'The request');
}

/** Largest file that is taken in. */
const MAX_FILE = 600 * 1024 * 1024;

/** The request's body as bytes: a file. */
export async function bytesOf(request: Request): Promise<Uint8Array> {
  const tooLarge = (): never => {
    throw new RuddleError('refused', 'The file is larger than 600 MB.', { reason: 'too large' });
  };
  if (Number(request.headers.get('content-length') ?? 0) > MAX_FILE) tooLarge();
  const bytes = new Uint8Array(await request.arrayBuffer());
  if (bytes.length > MAX_FILE) tooLarge();
  return bytes;
}

/** Parameters of a path against a pattern; null when it does not match. */
export function match(pattern: string, path: string): Record<string, string> | null {
  const want = pattern.split('/');
  const have = path.split('/');
  if (want.length !== have.length) return null;
  const params: Record<string, string> = {};
  for (let n = 0; n < want.length; n++) {
    const w = want[n] ?? '';
    const h = have[n] ?? '';
    if (w.startsWith(':')) {
      // Identifiers and numbers only: nothing of a request ever becomes part of a file's path.
      if (!/^-?[A-Za-z0-9-]{1,64}$/.test(h)) return null;
      params[w.slice(1)] = h;
    } else if (w !== h) return null;
  }
  return params;
}
