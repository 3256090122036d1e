import { formatQuantity } from '#core/units';
import { type Check, framesOf } from './finding';

/** Least part of what is computed (or held in memory) that should hold matter. */
const USEFUL = 0.12;
const HELD = 0.15;

/** Most of what the bounds compute, or hold, is empty. */
export const emptyBounds: Check = {
  id: 'empty-bounds',
  find({ settings, plan, reports }) {
    const later = reports.slice(reports.length >> 2).filter((r) => r.matterTiles > 0);
    if (later.length < 3) return [];
    const mean = (pick: (r: (typeof later)[number]) => number): number => later.reduce((n, r) => n + pick(r), 0) / later.length;
    const useful = mean((r) => r.matterTiles / r.activeTiles);
    const held = mean((r) => r.activeVoxels / (r.window[3] * r.window[4] * r.window[5]));
    const frames = framesOf(later);
    const { mode, reach } = plan.options.bounds;
    if (mode !== 'adaptive' && (mode === 'dense' ? useful : held * useful) < HELD) {
      const share = mode === 'dense' ? useful : held;
      return [
        {
          id: 'empty-bounds',
          group: 'bounds',
          severity: 'warning',
          title: `${(100 * (1 - share)).toFixed(0)} % of the ${mode === 'dense' ? 'dense' : 'fixed'} bounds hold nothing`,
          text:
            mode === 'dense'
              ? 'Every tile of the limit box is computed, with matter or without. Adaptive bounds compute what is needed.'
              : 'The whole limit box is held in memory. Adaptive bounds hold what is needed.',
          frames,
          remedies: [{ title: 'Bounds → Adaptive', edits: [{ path: 'bounds.mode', value: 'adaptive' }] }],
        },
      ];
    }
    const shorter = Number((reach * 0.6).toPrecision(2));
    // Reach is paid for by the surface of the matter; a few voxels of it are always needed.
    if (mode === 'adaptive' && useful < USEFUL && shorter >= 4 * settings.detail.voxelSize) {
      return [
        {
          id: 'empty-bounds',
          group: 'bounds',
          severity: 'note',
          title: `Only ${(100 * useful).toFixed(0)} % of the active tiles hold matter`,
          text: `The rest is reach: ${formatQuantity(reach, 'metre')} ahead of it. A shorter reach is faster; the rim gets a little less true.`,
          frames,
          remedies: [
            {
              title: `Reach ${formatQuantity(reach, 'metre')} → ${formatQuantity(shorter, 'metre')}`,
              edits: [{ path: 'bounds.reach', value: shorter }],
            },
          ],
        },
      ];
    }
    return [];
  },
};
