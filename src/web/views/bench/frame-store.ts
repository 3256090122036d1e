import { useEffect, useState } from 'react';
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

const keyOf = (run: string, frame: number, channel: LookChannel): string => `${run}/${String(frame)}/${channel}`;

function fetchEntry(run: string, frame: number, channel: LookChannel): Entry {
  const key = keyOf(run, frame, channel);
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
      .frame(run, frame, channel, 0)
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
export function fetchFrame(run: string, frame: number, channel: LookChannel): Promise<Preview | null> {
  const sketch = sketchById(run);
  return sketch ? Promise.resolve(sketch.preview(frame, channel)) : fetchEntry(run, frame, channel).promise;
}

/** Whether a frame can be shown at once. */
export const isReady = (run: string, frame: number, channel: LookChannel): boolean => {
  const sketch = sketchById(run);
  if (sketch) return sketch.preview(frame, channel) !== null;
  return kept.get(keyOf(run, frame, channel))?.preview != null;
};

export interface ShownFrame {
  readonly run: string;
  readonly frame: number;
  readonly preview: Preview | null;
  readonly channel: LookChannel;
}

/** A frame's voxels; the last ones stay until the new ones are there. Fetches the following frames too. */
export function useFrame(run: string | null, frame: number | null, channel: LookChannel, stored: ReadonlySet<number>): ShownFrame | null {
  const [shown, setShown] = useState<ShownFrame | null>(null);
  useEffect(() => {
    const sketch = run === null ? null : sketchById(run);
    if (run === null || frame === null || !stored.has(frame)) {
      // A Sketch that begins anew keeps its last picture until there is another.
      if (!sketch) setShown(null);
      return undefined;
    }
    if (sketch) {
      const preview = sketch.preview(frame, channel);
      setShown((s) => (s?.preview === preview ? s : { run, frame, preview, channel }));
      return undefined;
    }
    let current = true;
    const entry = fetchEntry(run, frame, channel);
    if (entry.preview) setShown({ run, frame, preview: entry.preview, channel });
    else {
      void entry.promise.then((preview) => {
        if (current) setShown({ run, frame, preview, channel });
      });
    }
    for (let n = 1; n <= AHEAD; n++) if (stored.has(frame + n)) fetchEntry(run, frame + n, channel);
    return () => {
      current = false;
    };
  }, [run, frame, channel, stored]);
  return shown && shown.run === run ? shown : null;
}
