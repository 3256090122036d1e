import { readFileSync } from 'node:fs';

/**
 * Seconds that the calling thread has been ready to work and had no core, since it began: the second number of Linux's schedstat. 0 where the system
 * does not tell. A frame's share of it says whether other programs held the cores while it was computed.
 */
export function waitedForCore(): number {
  try {
    const waited = Number(readFileSync('/proc/thread-self/schedstat', 'latin1').split(' ')[1]);
    return Number.isFinite(waited) ? waited / 1e9 : 0;
  } catch {
    return 0;
  }
}

/** Seconds of waiting since it was asked last. */
export function waitedSince(now: () => number = waitedForCore): () => number {
  let before = now();
  return () => {
    const at = now();
    const since = Math.max(0, at - before);
    before = at;
    return since;
  };
}
