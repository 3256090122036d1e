import type { RunSummaryDto, ShotRowDto } from '#protocol';

/** A cache that could be freed. */
export interface Freeable {
  readonly shot: string;
  readonly run: RunSummaryDto;
  readonly why: string;
}

/** How much a run is needed: 0 least. */
function needOf(run: RunSummaryDto, runs: readonly RunSummaryDto[]): { readonly rank: number; readonly why: string } {
  if (run.approved) return { rank: 4, why: 'approved' };
  if (run.missingFrames + run.damagedFrames > 0) return { rank: 0, why: 'damaged' };
  if (run.state !== 'done') return { rank: 1, why: run.state };
  const whole = (r: RunSummaryDto): boolean => r.state === 'done' && !r.freed && r.missingFrames + r.damagedFrames === 0;
  const newer = runs.find((r) => r.passId === run.passId && r.rung === run.rung && r.number > run.number && whole(r));
  return newer ? { rank: 2, why: `run ${String(newer.number)} is newer` } : { rank: 3, why: 'the newest' };
}

/** Caches that hold something, the least needed first; of those that are needed as much, what frees most for a second of computing it again. */
export function leastNeeded(shots: readonly ShotRowDto[]): Freeable[] {
  const all = shots.flatMap((shot) => {
    if (!shot.readable) return [];
    const over = shot.runs.filter((r) => !r.freed && r.framesDone > 0 && !['queued', 'running', 'paused'].includes(r.state));
    return over.map((run) => ({ shot: shot.fields.name, run, ...needOf(run, shot.runs) }));
  });
  const worth = ({ bytes, seconds }: RunSummaryDto): number => bytes / Math.max(seconds, 1e-3);
  return all.sort((a, b) => a.rank - b.rank || worth(b.run) - worth(a.run)).map(({ shot, run, why }) => ({ shot, run, why }));
}
