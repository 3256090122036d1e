import type { SketchSetUp } from '#protocol';

/** Lets waiting messages in: a task of its own, without the four milliseconds that a timer takes. */
export const breathe = (): Promise<void> =>
  new Promise((resolve) => {
    const { port1, port2 } = new MessageChannel();
    port1.onmessage = () => {
      port1.close();
      resolve();
    };
    port2.postMessage(null);
  });

type Asked<Start> = SketchSetUp | Start | { readonly kind: 'stop' };

/** What a sketch worker is told: `run` is given one start at a time, the latest that was asked for. */
export function sketching<Start extends { readonly kind: 'start' }>(
  run: (start: Start, setUp: SketchSetUp, overtaken: () => boolean) => Promise<void>,
): (request: Asked<Start>) => void {
  let setUp: SketchSetUp | null = null;
  const ask = latestOnly(async (start: Start, overtaken) => {
    if (setUp) await run(start, setUp, overtaken);
  });
  return (request) => {
    switch (request.kind) {
      case 'setup':
        setUp = request;
        return;
      case 'start':
        ask(request);
        return;
      case 'stop':
        ask(null);
        return;
    }
  };
}

/** One job at a time, the latest that was asked for; `null` ends it. A job that breathes asks whether another has overtaken it. */
function latestOnly<T>(run: (job: T, overtaken: () => boolean) => Promise<void>): (job: T | null) => void {
  let wanted: T | null = null;
  let running = false;
  const pump = async (): Promise<void> => {
    if (running) return;
    running = true;
    let last: T | null = null;
    // `wanted` changes while a job breathes.
    while (wanted !== null && wanted !== last) {
      const job: T = wanted;
      last = job;
      await run(job, () => wanted !== job);
    }
    running = false;
  };
  return (job) => {
    wanted = job;
    if (job !== null) void pump();
  };
}
