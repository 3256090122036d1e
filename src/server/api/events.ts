import type { ServerEvent } from '#protocol';
import type { EventHub } from '#server/app';

/** A comment now and then, so that a dead connection is noticed. */
const BEAT = 15_000;
/** Bytes that may wait for a client. One that is so far behind is let go: it connects again and looks at everything anew, which costs less. */
const BEHIND = 1024 * 1024;

/**
 * Server-sent events. The browser reconnects by itself; after a (re)connection the page looks at everything anew, so nothing is lost by a
 * reload. A client that does not read hears less: progress is left out while anything waits, and in the end it is let go. Cleaned up on abort and on cancel:
 * development fires only the second.
 */
export function eventStream(hub: EventHub, signal: AbortSignal): Response {
  const encoder = new TextEncoder();
  let end = (): void => undefined;
  const stream = new ReadableStream<Uint8Array>(
    {
      start(controller) {
        const put = (text: string): void => {
          if ((controller.desiredSize ?? 0) < -BEHIND) end();
          else controller.enqueue(encoder.encode(text));
        };
        const send = (event: ServerEvent): void => {
          const waits = (controller.desiredSize ?? 0) < 0;
          if (waits && (event.kind === 'progress' || event.kind === 'import')) return;
          put(`data: ${JSON.stringify(event)}\n\n`);
        };
        const leave = hub.subscribe(send);
        const beat = setInterval(() => {
          put(': beat\n\n');
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
    },
    new ByteLengthQueuingStrategy({ highWaterMark: 64 * 1024 }),
  );
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' },
  });
}
