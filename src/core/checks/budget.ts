import type { Range } from '#core/cost';
import { formatBytes, formatQuantity, formatSeconds } from '#core/units';
import type { Check, Finding, FlowCheckInput, Remedy } from './finding';

/** Time grows with about this power of the voxels a side: voxels and substeps. */
const TIME_POWER = 3.7;
const SPACE_POWER = 2.6;
/** The remedy leaves a tenth of what is left. */
const AIM = 0.9;

/** The plan, beside what is spent already, would break a budget of the shot. */
export const budgets: Check<FlowCheckInput> = {
  id: 'budget',
  find({ shot, settings, prediction, spent, reports }) {
    const found: Finding[] = [];
    const check = (
      what: 'time' | 'disk' | 'memory',
      range: Range | null,
      left: number,
      budget: number,
      show: (v: number) => string,
      power: number,
    ): void => {
      if (!range || range.likely <= left) return;
      const size = Number((settings.detail.voxelSize * (range.likely / Math.max(AIM * left, 0.02 * budget)) ** (1 / power)).toPrecision(3));
      const remedies: Remedy[] = [];
      if (what === 'disk' && 'precision' in settings.keep && settings.keep.precision === 'full')
        remedies.push({ title: 'Precision Full → Half floats', edits: [{ path: 'keep.precision', value: 'half' }] });
      if (size <= 100) {
        remedies.push({
          title: `Voxel size ${formatQuantity(settings.detail.voxelSize, 'metre')} → ${formatQuantity(size, 'metre')}`,
          edits: [{ path: 'detail.voxelSize', value: size }],
        });
      }
      found.push({
        id: `budget:${what}`,
        group: what === 'disk' ? 'keep' : 'detail',
        severity: 'warning',
        title: `The ${what} budget would be broken: ${show(range.likely)} predicted, ${show(Math.max(0, left))} left`,
        text: `Between ${show(range.low)} and ${show(range.high)} are to be expected, of a budget of ${show(budget)}${what === 'memory' ? '' : ` of which ${show(budget - left)} are spent`}.`,
        frames: null,
        remedies,
      });
    };
    const { budgets: b } = shot;
    if (prediction) {
      check('time', prediction.time, b.time - spent.seconds, b.time, formatSeconds, TIME_POWER);
      check('disk', prediction.disk, b.disk - spent.bytes, b.disk, formatBytes, SPACE_POWER);
      check('memory', prediction.memory, b.memory, b.memory, formatBytes, SPACE_POWER);
    } else {
      const over = reports.filter((r) => r.memoryBytes > b.memory);
      const most = Math.max(0, ...over.map((r) => r.memoryBytes));
      if (most > 0) check('memory', { low: most, likely: most, high: most }, b.memory, b.memory, formatBytes, SPACE_POWER);
    }
    return found;
  },
};
