import { shapeBounds } from '#core/geometry';
import { defaultLimit, limitAround, meets } from './limit-from';
import { type SolveSettings, isLiquid } from './solve';
import type { GasSolve } from './solve-settings';
import type { ShotFields } from './shot';

/** How many bounds a shot computes in. */
export const countOfBounds = (settings: SolveSettings): number => 1 + settings.bounds.beside.length;

/**
 * A shot with several bounds, seen through one of them: its limit box and voxel size, and only the things that come into it (the others hidden, so that
 * their places in the lists stay). What comes into none of them stays with the first. Everything that knows of one bounds (plans, predictions, findings)
 * works on this.
 */
export function settingsOfBounds(shot: ShotFields, settings: SolveSettings, n: number): SolveSettings {
  const { beside } = settings.bounds;
  if (beside.length === 0 || isLiquid(settings)) return settings;
  const boxes = [settings.bounds.limit ?? defaultLimit(settings), ...beside.map((b) => b.limit)];
  const limit = boxes[n] ?? boxes[0];
  if (!limit) return settings;
  const through = <T extends GasSolve['sources'][number] | GasSolve['solids'][number]>(
    items: readonly T[],
    group: 'sources' | 'solids',
  ): T[] =>
    items.map((item, index) => {
      const box = limitAround(shot, settings, group, index) ?? shapeBounds(item.shape);
      const inside = meets(limit, box) || (n === 0 && !boxes.some((b) => meets(b, box)));
      return inside ? item : { ...item, hidden: true };
    });
  return {
    ...settings,
    detail: { ...settings.detail, voxelSize: beside[n - 1]?.voxelSize ?? settings.detail.voxelSize },
    bounds: { ...settings.bounds, limit: { min: [...limit.min], max: [...limit.max] }, beside: [] },
    sources: through(settings.sources, 'sources'),
    solids: through(settings.solids, 'solids'),
  };
}
