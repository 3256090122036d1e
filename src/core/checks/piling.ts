import { shapeBounds } from '#core/geometry';
import { formatQuantity } from '#core/units';
import { type Check, type Finding, framesOf } from './finding';

/** Over the speed that a push gives matter on its way through the source. */
const TOO_FAST = 2;

/**
 * A velocity that is added each second pushes for as long as matter stays inside: on its way through a source of length L it reaches sqrt(2 a L). Where
 * matter cannot get out (the source fills a pocket, or air runs in circles through it) it gets faster and faster.
 */
export const pilingVelocity: Check = {
  id: 'piling',
  find({ settings, reports }) {
    return settings.sources.flatMap((source, n): Finding[] => {
      if (source.hidden || source.mode !== 'add' || !source.velocity) return [];
      const push = Math.hypot(...source.velocity);
      if (push === 0) return [];
      const { min, max } = shapeBounds(source.shape);
      const way = source.velocity.reduce((s, v, a) => s + (Math.abs(v) / push) * (max[a as 0 | 1 | 2] - min[a as 0 | 1 | 2]), 0);
      const expected = Math.sqrt(2 * push * way) + Math.hypot(...settings.forces.wind);
      const fast = reports.filter((r) => r.fastest > TOO_FAST * expected);
      // Still growing at the end: it does not settle.
      const half = reports.slice(Math.floor(reports.length / 2));
      const grows = (half[half.length - 1]?.fastest ?? 0) > 1.2 * (half[0]?.fastest ?? Infinity);
      if (fast.length < 3 || !grows) return [];
      const speed = source.velocity.map((v) => Number(((v / push) * Math.sqrt(2 * push * way)).toPrecision(3)));
      return [
        {
          id: `piling:${String(n)}`,
          group: 'sources',
          severity: 'warning',
          title: `${source.name} pushes faster and faster`,
          text: `It adds ${formatQuantity(push, 'speed', { digits: 3 })} each second, and matter reaches ${formatQuantity(Math.max(...fast.map((r) => r.fastest)), 'speed', { digits: 3 })}, ${formatQuantity(expected, 'speed', { digits: 3 })} would be the way through it. Let it approach a velocity instead: the same for any number of substeps.`,
          frames: framesOf(fast),
          remedies: [
            {
              title: `Emits by: approaches ${formatQuantity(Math.hypot(...speed), 'speed', { digits: 3 })}`,
              edits: [
                { path: `sources[${String(n)}].mode`, value: 'blend' },
                { path: `sources[${String(n)}].velocity`, value: speed },
              ],
            },
          ],
        },
      ];
    });
  },
};
