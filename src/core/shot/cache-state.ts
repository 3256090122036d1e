/** What is known of a run that matters for its cache's state. */
export interface CacheFacts {
  readonly key: string;
  readonly state: 'queued' | 'running' | 'done' | 'cancelled' | 'interrupted' | 'failed';
  readonly framesDone: number;
  readonly freed: boolean;
}

/**
 * State of a run's cache against the run key that the sheet would give now: `stale` when the keys differ, whatever is there; else by how
 * much of the frames is there.
 */
export function cacheState(run: CacheFacts, keyNow: string, framesWanted: number): 'fresh' | 'stale' | 'partial' | 'missing' | 'failed' {
  if (run.freed || (run.framesDone === 0 && run.state !== 'failed')) return 'missing';
  if (run.framesDone === 0) return 'failed';
  if (run.key !== keyNow) return 'stale';
  if (run.framesDone >= framesWanted) return 'fresh';
  return run.state === 'failed' ? 'failed' : 'partial';
}
