import { LRUCache } from 'lru-cache';
import { useEffect, useRef, useState } from 'react';
import { type Preview, decodePreview } from '#core/formats';
import type { LookChannel } from '#core/look';
import { api, liveById } from '#web/state';
import { failureOf, noteFailure, useArrival } from './arrivals';

/** Decoded frames kept in memory, bytes. */
const KEEP = 256e6;
/** Frames fetched ahead of the one that is shown. */
const AHEAD = 8;

const kept = new LRUCache<string, Preview>({ maxSize: KEEP, sizeCalculation: (preview) => Math.max(1, preview.data.length) });

const UNREADABLE = 'what the server keeps of it cannot be read.';

/** A frame that is on its way. Who wants it holds it; when nobody does any more it is not asked for any longer. */
interface Request {
  readonly promise: Promise<Preview | null>;
  readonly abort: AbortController;
  holders: number;
}

const requests = new Map<string, Request>();

const keyOf = (run: string, frame: number, channel: LookChannel, bounds: number): string =>
  `${run}/${String(frame)}/${channel}/${String(bounds)}`;

function ask(run: string, frame: number, channel: LookChannel, bounds: number): Request {
  const key = keyOf(run, frame, channel, bounds);
  const known = requests.get(key);
  if (known) return known;
  const abort = new AbortController();
  const request: Request = {
    abort,
    holders: 0,
    promise: api
      .frame(run, frame, channel, { bounds, signal: abort.signal })
      .then((data) => {
        const preview = decodePreview(data);
        if (preview) kept.set(key, preview);
        noteFailure(key, preview ? null : new Error(UNREADABLE));
        return preview;
      })
      .catch((error: unknown) => {
        noteFailure(key, error);
        return null;
      })
      .finally(() => {
        if (requests.get(key) === request) requests.delete(key);
      }),
  };
  requests.set(key, request);
  return request;
}

/** Holds a frame that is not there yet; returns how it is let go. */
function hold(
  run: string,
  frame: number,
  channel: LookChannel,
  bounds = 0,
): { readonly promise: Promise<Preview | null>; release: () => void } {
  const ready = kept.get(keyOf(run, frame, channel, bounds));
  if (ready) return { promise: Promise.resolve(ready), release: () => undefined };
  const request = ask(run, frame, channel, bounds);
  request.holders++;
  let held = true;
  return {
    promise: request.promise,
    release: () => {
      if (!held) return;
      held = false;
      if (--request.holders > 0) return;
      request.abort.abort();
      const key = keyOf(run, frame, channel, bounds);
      if (requests.get(key) === request) requests.delete(key);
    },
  };
}

/** A frame's voxels of a run or a Sketch; null when there are none. */
export function fetchFrame(run: string, frame: number, channel: LookChannel, bounds = 0): Promise<Preview | null> {
  const sketch = liveById(run);
  return sketch ? Promise.resolve(sketch.preview(frame, channel, bounds)) : hold(run, frame, channel, bounds).promise;
}

/** Whether a frame can be shown at once. */
export const isReady = (run: string, frame: number, channel: LookChannel): boolean => {
  const sketch = liveById(run);
  if (sketch) return sketch.preview(frame, channel) !== null;
  return kept.has(keyOf(run, frame, channel, 0));
};

export interface ShownFrame {
  readonly run: string;
  readonly frame: number;
  readonly preview: Preview | null;
  readonly channel: LookChannel;
}

/** What can be shown at once. The same object for the same preview: whoever draws it compares by identity. */
const made = new WeakMap<Preview, ShownFrame>();
function readyFrame(run: string, frame: number, channel: LookChannel): ShownFrame | null {
  const sketch = liveById(run);
  const preview = sketch ? sketch.preview(frame, channel) : kept.get(keyOf(run, frame, channel, 0));
  if (!preview) return null;
  const known = made.get(preview);
  if (known?.run === run && known.frame === frame && known.channel === channel) return known;
  const shown = { run, frame, preview, channel };
  made.set(preview, shown);
  return shown;
}

/** A frame's voxels; the last ones stay until the new ones are there. Fetches the following frames too, and lets go of those that are not wanted any more. */
export function useFrame(run: string | null, frame: number | null, channel: LookChannel, stored: ReadonlySet<number>): ShownFrame | null {
  const [arrived, setArrived] = useState<ShownFrame | null>(null);
  const wanted = run !== null && frame !== null && stored.has(frame);
  // A frame that is there is shown by this very draw of the view: by way of an effect it would take two.
  const ready = wanted ? readyFrame(run, frame, channel) : null;
  const last = useRef<ShownFrame | null>(null);
  useEffect(() => {
    if (run === null || frame === null || !stored.has(frame) || liveById(run)) return undefined;
    let current = true;
    const holds = Array.from({ length: AHEAD + 1 }, (_v, n) => frame + n)
      .filter((f) => stored.has(f))
      .map((f) => hold(run, f, channel));
    void holds[0]?.promise.then((preview) => {
      if (current) setArrived({ run, frame, preview, channel });
    });
    return () => {
      current = false;
      // After the next frame has taken hold of those that it wants too.
      queueMicrotask(() => {
        for (const h of holds) h.release();
      });
    };
  }, [run, frame, channel, stored]);
  const answered = arrived?.run === run && arrived?.frame === frame && arrived.channel === channel ? arrived : null;
  const sketching = run !== null && liveById(run) !== null;
  // A Sketch that begins anew keeps its last picture until there is another; a run whose frame is not stored shows none. Voxels of another run are of another size: whoever
  // keeps their picture keeps it drawn.
  const stale = wanted || sketching ? last.current : null;
  const shown = ready ?? answered ?? (stale?.run === run ? stale : null);
  last.current = shown;
  const waits = wanted && !sketching && ready === null;
  const problem = answered && !answered.preview ? (failureOf(keyOf(run ?? '', frame ?? 0, channel, 0)) ?? UNREADABLE) : null;
  useArrival(waits && (answered === null || problem !== null) ? { frame, problem } : null);
  return shown;
}
