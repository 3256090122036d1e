import type { LightVolume, ShadowInput } from '#core/look';

export interface ShadowBuilder {
  /** Latest wins: a request that a newer one overtook resolves to null. */
  build(input: ShadowInput): Promise<LightVolume | null>;
  close(): void;
}

interface Request {
  readonly input: ShadowInput;
  readonly resolve: (light: LightVolume | null) => void;
}

/**
 * Builds light volumes in a worker of the browser: one at a time, and of what waits meanwhile only the latest, or a hand that scrubs would leave a
 * queue of frames that nobody looks at any more.
 */
export function createShadowBuilder(
  worker: Pick<Worker, 'postMessage' | 'terminate' | 'onmessage'> = new Worker(new URL('./shadow.worker.ts', import.meta.url), {
    type: 'module',
  }),
): ShadowBuilder {
  let busy: Request | null = null;
  let waiting: Request | null = null;
  const start = (request: Request): void => {
    busy = request;
    worker.postMessage(request.input);
  };
  worker.onmessage = (message: MessageEvent<LightVolume>) => {
    const done = busy;
    const next = waiting;
    busy = null;
    waiting = null;
    if (next) start(next);
    done?.resolve(next ? null : message.data);
  };
  return {
    build: (input) =>
      new Promise((resolve) => {
        if (!busy) {
          start({ input, resolve });
          return;
        }
        waiting?.resolve(null);
        waiting = { input, resolve };
      }),
    close() {
      worker.terminate();
    },
  };
}
