import { useEffect, useRef, useState } from 'react';
import { type Preview, decodePreview } from '#core/formats';
import type { LookChannel } from '#core/look';
import { api, sketchById } from '#web/state';

/** Decoded frames kept in memory, bytes. */
const KEEP = 256e6;
/** Frames fetched ahead of the one that is shown. */
const AHEAD = 8;

type Entry = { preview: Preview | null; promise: Promise<Preview | null> };

const kept = new Map<string, Entry>();
let bytes = 0;

const keyOf = (run: string, frame: number, channel: LookChannel, bounds: number): string =>
  `${run}/${String(frame)}/${channel}/${String(bounds)}`;

function fetchEntry(run: string, frame: number, channel: LookChannel, bounds = 0): Entry {
  const key = keyOf(run, frame, channel, bounds);
  const known = kept.get(key);
  if (known) {
    // Most recently used last.
    kept.delete(key);
    kept.set(key, known);
    return known;
  }
  const entry: Entry = {
    preview: null,
    promise: api
      .frame(run, frame, channel, 0, { bounds })
      .then((data) => {
        entry.preview = decodePreview(data);
        bytes += entry.preview?.data.length ?? 0;
        for (const [k, e] of kept) {
          if (bytes <= KEEP) break;
          if (e === entry || !e.preview) continue;
          bytes -= e.preview.data.length;
          kept.delete(k);
        }
        return entry.preview;
      })
      .catch(() => {
        kept.delete(key);
        return null;
      }),
  };
  kept.set(key, entry);
  return entry;
}

/** A frame's voxels of a run or a Sketch; null when there are none. */
export function fetchFrame(run: string, frame: number, channel: LookChannel, bounds = 0): Promise<Preview | null> {
  const sketch = sketchById(run);
  return sketch ? Promise.resolve(sketch.preview(frame, channel, bounds)) : fetchEntry(run, frame, channel, bounds).promise;
}

/** Whether a frame can be shown at once. */
export const isReady = (run: string, frame: number, channel: LookChannel): boolean => {
  const sketch = sketchById(run);
  if (sketch) return sketch.preview(frame, channel) !== null;
  return kept.get(keyOf(run, frame, channel, 0))?.preview != null;
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
  const sketch = sketchById(run);
  const preview = sketch ? sketch.preview(frame, channel) : kept.get(keyOf(run, frame, channel, 0))?.preview;
  if (!preview) return null;
  const known = made.get(preview);
  if (known?.run === run && known.frame === frame && known.channel === channel) return known;
  const shown = { run, frame, preview, channel };
  made.set(preview, shown);
  return shown;
}

/** A frame's voxels; the last ones stay until the new ones are there. Fetches the following frames too. */
export function useFrame(run: string | null, frame: number | null, channel: LookChannel, stored: ReadonlySet<number>): ShownFrame | null {
  const [arrived, setArrived] = useState<ShownFrame | null>(null);
  const wanted = run !== null && frame !== null && stored.has(frame);
  // A frame that is there is shown by this very draw of the view: by way of an effect it would take two.
  const ready = wanted ? readyFrame(run, frame, channel) : null;
  const last = useRef<ShownFrame | null>(null);
  useEffect(() => {
    if (run === null || frame === null || !stored.has(frame) || sketchById(run)) return undefined;
    let current = true;
    const entry = fetchEntry(run, frame, channel);
    if (!entry.preview) {
      void entry.promise.then((preview) => {
        if (current) setArrived({ run, frame, preview, channel });
      });
    }
    for (let n = 1; n <= AHEAD; n++) if (stored.has(frame + n)) fetchEntry(run, frame + n, channel);
    return () => {
      current = false;
    };
  }, [run, frame, channel, stored]);
  const answered = arrived?.run === run && arrived?.frame === frame && arrived.channel === channel ? arrived : null;
  const sketching = run !== null && sketchById(run) !== null;
  // A Sketch that begins anew keeps its last picture until there is another; a run whose frame is not stored shows none.
  const stale = wanted || sketching ? last.current : null;
  const shown = ready ?? answered ?? (stale?.run === run ? stale : null);
  last.current = shown;
  return shown;
}
