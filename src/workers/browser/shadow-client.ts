import type { LightVolume, ShadowInput } from '#core/look';

export interface ShadowBuilder {
  /** Latest wins: a request that a newer one overtook resolves to null. */
  build(input: ShadowInput): Promise<LightVolume | null>;
  close(): void;
}

/** Builds light volumes in a worker of the browser. */
export function createShadowBuilder(): ShadowBuilder {
  const worker = new Worker(new URL('./shadow.worker.ts', import.meta.url), { type: 'module' });
  let id = 0;
  const waiting = new Map<number, (light: LightVolume | null) => void>();
  worker.onmessage = (message: MessageEvent<{ id: number; light: LightVolume }>) => {
    waiting.get(message.data.id)?.(message.data.light);
    waiting.delete(message.data.id);
  };
  return {
    build(input) {
      for (const resolve of waiting.values()) resolve(null);
      waiting.clear();
      id++;
      return new Promise((resolve) => {
        waiting.set(id, resolve);
        worker.postMessage({ id, input });
      });
    },
    close() {
      worker.terminate();
    },
  };
}
