import { type ErrorTag, RuddleError, isRuddleError, toErrorData } from '#core/errors';
import { sharedApp } from '#server/app';
import type { Drained } from '#server/cache';
import { match } from './route';
import { routes } from './routes';

const STATUS: Record<ErrorTag, number> = {
  'settings-invalid': 400,
  'file-invalid': 422,
  'not-found': 404,
  conflict: 409,
  refused: 403,
  'arena-too-small': 422,
  'waits-for-memory': 409,
  'disk-full': 507,
  'over-budget': 409,
  unreadable: 422,
  storage: 503,
  'not-finite': 500,
  cancelled: 409,
  internal: 500,
};

/** Answers `/api/...`: finds the route, runs it, turns tagged errors into statuses. */
export async function handleApi(request: Request, drained: Drained = () => Promise.resolve()): Promise<Response> {
  const url = new URL(request.url);
  const path = url.pathname.replace(/^\/api/, '');
  try {
    const sameMethod = routes.filter((r) => r.method === request.method);
    for (const route of sameMethod) {
      const params = match(route.path, path);
      if (!params) continue;
      const app = await sharedApp();
      await app.db.present();
      const result = await route.answer({ app, request, params, query: url.searchParams, drained });
      return result instanceof Response ? result : json(200, result);
    }
    throw new RuddleError('not-found', 'There is nothing at this address.', { what: path });
  } catch (error) {
    const known = databaseError(error) ?? error;
    if (!isRuddleError(known) || known !== error) console.error(request.method, path, error);
    const data = toErrorData(known);
    // A defect's stack is for the log, not for the page.
    return json(STATUS[data.tag], { error: data.tag === 'internal' ? { ...data, fields: {} } : data });
  }
}

/** What SQLite says when its file is gone, full or locked, in words; null when it is something else. */
function databaseError(error: unknown): RuddleError | null {
  // The query layer wraps what the database says.
  for (let e = error; e instanceof Error; e = e.cause) {
    const code = 'code' in e ? String(e.code) : '';
    if (!code.startsWith('SQLITE_') || code.startsWith('SQLITE_CONSTRAINT')) continue;
    const reason = /FULL/.test(code)
      ? 'the disk is full'
      : /BUSY|LOCKED/.test(code)
        ? 'another program has locked it'
        : 'it was removed, moved or damaged while Ruddle runs; end Ruddle and start it again';
    return new RuddleError('storage', `Ruddle's database does not answer: ${reason}.`, { code }, error);
  }
  return null;
}

const json = (status: number, value: unknown): Response =>
  new Response(JSON.stringify(value ?? null), {
    status,
    headers: { 'content-type': 'application/json; charset=utf-8', 'cache-control': 'no-store' },
  });
