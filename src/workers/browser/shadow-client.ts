import type { LightVolume, ShadowInput } from '#core/look';

export interface ShadowBuilder {
  /** Latest wins: a request that a newer one overtook resolves to null, and so does one that cannot be answered. */
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
  worker: Pick<Worker, 'postMessage' | 'terminate' | 'onmessage' | 'onerror'> = new Worker(new URL('./shadow.worker.ts', import.meta.url), {
    type: 'module',
  }),
): ShadowBuilder {
  let busy: Request | null = null;
  let waiting: Request | null = null;
  const start = (request: Request): void => {
    busy = request;
    worker.postMessage(request.input);
  };
  const settle = (light: LightVolume | null): void => {
    const done = busy;
    const next = waiting;
    busy = null;
    waiting = null;
    if (next) start(next);
    done?.resolve(next ? null : light);
  };
  worker.onmessage = (message: MessageEvent<LightVolume>) => {
    settle(message.data);
  };
  // Without its shadow the smoke is still seen: all light arrives.
  worker.onerror = () => {
    settle(null);
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
      busy?.resolve(null);
      waiting?.resolve(null);
      busy = null;
      waiting = null;
    },
  };
}
