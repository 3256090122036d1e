import { onTestFinished, vi } from 'vitest';

/** A request that a component made. */
export interface Asked {
  readonly method: string;
  readonly path: string;
  readonly query: URLSearchParams;
  readonly body: unknown;
}

/** What a made-up server answers: a value, or what comes of a request; thrown data is a refusal with the error's shape. */
type Answer = unknown;

/**
 * Stands in for the server: answers by `METHOD /path` (below /api, without the query). What is not in the list is refused, so that a component
 * that asks for more than a test knows of fails it. Returns the requests as they come.
 */
export function serve(answers: Readonly<Record<string, Answer>>): Asked[] {
  const asked: Asked[] = [];
  const reply = (status: number, value: unknown): Response =>
    value instanceof Uint8Array
      ? new Response(new Uint8Array(value), { status })
      : new Response(JSON.stringify(value), { status, headers: { 'content-type': 'application/json' } });
  const stub = vi.spyOn(window, 'fetch').mockImplementation(async (input, init) => {
    const url = new URL(input instanceof Request ? input.url : input, window.location.href);
    if (!url.pathname.startsWith('/api/')) throw new Error(`asked for ${url.pathname}`);
    const method = init?.method ?? 'GET';
    const path = url.pathname.slice('/api'.length);
    const request: Asked = {
      method,
      path,
      query: url.searchParams,
      body: typeof init?.body === 'string' ? (JSON.parse(init.body) as unknown) : (init?.body ?? null),
    };
    asked.push(request);
    const answer = answers[`${method} ${path}`];
    if (answer === undefined) {
      return reply(404, { error: { tag: 'not-found', message: `nothing stands in for ${method} ${path}`, fields: {}, cause: null } });
    }
    try {
      return reply(200, typeof answer === 'function' ? await (answer as (r: Asked, init?: RequestInit) => unknown)(request, init) : answer);
    } catch (error) {
      if (error instanceof DOMException) throw error;
      return reply(409, { error });
    }
  });
  onTestFinished(() => {
    stub.mockRestore();
  });
  return asked;
}
