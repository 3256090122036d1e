import type { IncomingMessage, ServerResponse } from 'node:http';

/** Sets the headers that every answer needs; answers foreign hosts and origins with 403 itself and returns false. */
export function guard(request: IncomingMessage, response: ServerResponse, options?: { development?: boolean }): boolean;
