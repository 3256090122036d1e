import { RuddleError } from '#core/errors';
import { nesting, parseWith } from '#core/shot';
import type { App, ImportTask } from '#server/app';
import { type Drained, type Incoming, takeIn } from '#server/cache';
import type * as z from 'zod';

export interface RouteContext {
  readonly app: App;
  readonly request: Request;
  readonly params: Readonly<Record<string, string>>;
  readonly query: URLSearchParams;
  /** For answers that are larger than what should wait in memory for whoever asked. */
  readonly drained: Drained;
}

export interface Route {
  readonly method: string;
  /** `/runs/:id/frames/:frame` */
  readonly path: string;
  readonly answer: (context: RouteContext) => Promise<unknown>;
}

/** Largest JSON body that is read, bytes. */
const MOST_BODY = 4 * 1024 * 1024;
/** Deeper JSON than any shot file is; whoever walks it goes as deep. */
const DEEPEST = 64;

/** The request's JSON, validated. */
export async function body<T extends z.ZodType>(request: Request, schema: T): Promise<z.output<T>> {
  const text = await textOf(request);
  if (nesting(text) > DEEPEST) {
    const message = `lists and objects lie more than ${String(DEEPEST)} deep in each other`;
    throw new RuddleError('settings-invalid', `The request cannot be read: ${message}.`, { issues: [{ path: '', message }] });
  }
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (cause) {
    throw new RuddleError('settings-invalid', 'The request is not JSON.', { issues: [{ path: '', message: 'not JSON' }] }, cause);
  }
  return parseWith(schema, json, 'The request');
}

/** A request's body, and what its header says of its length. */
export const incoming = (request: Request): Incoming => {
  const length = request.headers.get('content-length');
  return { stream: request.body, announced: length === null ? null : Number(length) };
};

async function textOf(request: Request): Promise<string> {
  const chunks: Uint8Array[] = [];
  await takeIn(incoming(request), MOST_BODY, (chunk) => {
    chunks.push(chunk);
  });
  return Buffer.concat(chunks).toString('utf8');
}

/** What an uploaded file is called: for messages only, never part of a path. */
export const fileOf = (query: URLSearchParams, otherwise: string): string => (query.get('file') ?? otherwise).slice(0, 200);

export const taskOf = (request: Request, query: URLSearchParams): ImportTask => ({
  id: query.get('import')?.slice(0, 40) ?? null,
  signal: request.signal,
});

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
