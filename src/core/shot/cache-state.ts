/** What is known of a run that matters for its cache's state. */
export interface CacheFacts {
  readonly key: string;
  readonly state: 'queued' | 'running' | 'paused' | 'done' | 'cancelled' | 'interrupted' | 'failed';
  readonly framesDone: number;
  /** Frames whose files are damaged, or gone. */
  readonly damagedFrames: number;
  readonly missingFrames: number;
  readonly freed: boolean;
}

/**
 * State of a run's cache against the run key that the sheet would give now: `stale` when the keys differ, whatever is there; else by how
 * much of the frames is there. What is not as it was written comes first: nothing else that is said of it would be worth much.
 */
export function cacheState(
  run: CacheFacts,
  keyNow: string,
  framesWanted: number,
): 'fresh' | 'stale' | 'partial' | 'missing' | 'damaged' | 'failed' {
  if (run.freed || (run.framesDone === 0 && run.state !== 'failed')) return 'missing';
  if (run.framesDone === 0) return 'failed';
  if (run.missingFrames > 0 && run.missingFrames === run.framesDone) return 'missing';
  if (run.damagedFrames + run.missingFrames > 0) return 'damaged';
  if (run.key !== keyNow) return 'stale';
  if (run.framesDone >= framesWanted) return 'fresh';
  return run.state === 'failed' ? 'failed' : 'partial';
}
