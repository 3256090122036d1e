import type { ServerEvent } from '#protocol';
import type { EventHub } from '#server/app';

/** A comment now and then, so that a dead connection is noticed. */
const BEAT = 15_000;

/**
 * Server-sent events. The browser reconnects by itself; after a (re)connection the page looks at everything anew, so nothing is lost by a
 * reload. Cleaned up on abort and on cancel: development fires only the second.
 */
export function eventStream(hub: EventHub, signal: AbortSignal): Response {
  const encoder = new TextEncoder();
  let end = (): void => undefined;
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (event: ServerEvent): void => {
        controller.enqueue(encoder.encode(`data: ${JSON.stringify(event)}\n\n`));
      };
      const leave = hub.subscribe(send);
      const beat = setInterval(() => {
        controller.enqueue(encoder.encode(': beat\n\n'));
      }, BEAT);
      let ended = false;
      end = () => {
        if (ended) return;
        ended = true;
        leave();
        clearInterval(beat);
        try {
          controller.close();
        } catch {
          // The connection is gone already.
        }
      };
      signal.addEventListener('abort', end);
      send({ kind: 'hello' });
    },
    cancel() {
      end();
    },
  });
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' },
  });
}
