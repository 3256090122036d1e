import { useMemo } from 'react';
import { type Difference, type Settings, cacheState, differences, resolvePlan, runKey } from '#core/shot';
import type { CacheState, RunDto, ShotDto } from '#protocol';
import { useStatus } from './queries';

/** State of a run's cache against the settings on the sheet, and in which settings they differ. */
export function useStateOf(
  shot: ShotDto | undefined,
  run: RunDto | null,
  settings: Settings,
): { readonly state: CacheState; readonly differences: readonly Difference[] } {
  const kernels = useStatus().data?.kernelsVersion;
  return useMemo(() => {
    if (!shot || !run || kernels === undefined) return { state: 'missing' as const, differences: [] };
    const plan = resolvePlan(shot.fields, settings, run.rung);
    const wanted = shot.fields.lastFrame - shot.fields.firstFrame + shot.fields.preRoll + 1;
    const state = cacheState(run, runKey(plan, kernels), wanted);
    const used = shot.variants.find((v) => v.id === run.variantId)?.settings;
    return { state, differences: state === 'stale' && used ? differences(used, settings) : [] };
  }, [shot, run, settings, kernels]);
}
