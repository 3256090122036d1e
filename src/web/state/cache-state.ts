import { useMemo } from 'react';
import { type Difference, type Rung, type ShotFields, type SolveSettings, cacheState, differences, resolvePlan, solveOf } from '#core/shot';
import { opsOf } from '#core/passes';
import type { CacheState, RunDto, ShotDto } from '#protocol';

/** State of a run's cache against the settings on the sheet, and in which settings they differ. */
export function useStateOf(
  shot: ShotDto | undefined,
  run: (Omit<RunDto, 'rung'> & { readonly rung: Rung }) | null,
  settings: SolveSettings,
  fields: ShotFields,
): { readonly state: CacheState; readonly differences: readonly Difference[] } {
  return useMemo(() => {
    if (!shot || !run || run.rung === 'sketch') return { state: 'missing' as const, differences: [] };
    const plan = resolvePlan(fields, settings, run.rung);
    const wanted = fields.lastFrame - fields.firstFrame + fields.preRoll + 1;
    const state = cacheState(run, opsOf(plan).key(plan), wanted);
    const used = shot.variants.find((v) => v.id === run.variantId)?.settings;
    return { state, differences: state === 'stale' && used ? differences(solveOf(used), settings) : [] };
  }, [shot, run, settings, fields]);
}
