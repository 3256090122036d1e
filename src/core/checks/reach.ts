import { formatQuantity } from '#core/units';
import { type Check, framesOf, framesText } from './finding';

/** Of the matter at hand, a frame, that may get out of the active tiles. */
const ALLOWED = 0.005;

/** Matter reached the edge of what is computed within a frame: what flows on from there is lost. */
export const shortReach: Check = {
  id: 'reach',
  find({ plan, reports }) {
    const { mode, reach } = plan.options.bounds;
    if (mode !== 'adaptive') return [];
    const lost = (r: (typeof reports)[number]): number => (r.mass.crop + Math.max(0, r.mass.asleep)) / Math.max(r.mass.start, 1e-12);
    const largest = Math.max(0, ...reports.map((r) => r.mass.end));
    const short = reports.filter((r) => r.mass.start > 0.1 * largest && lost(r) > ALLOWED);
    const frames = framesOf(short);
    if (!frames) return [];
    const travel = Math.max(...short.map((r) => r.fastest)) / plan.options.framesPerSecond;
    const wanted = Number(Math.max(2 * reach, travel + 4 * plan.options.voxelSize).toPrecision(2));
    return [
      {
        id: 'reach',
        group: 'bounds',
        severity: 'warning',
        title: `Matter outruns the bounds: ${(100 * Math.max(...short.map(lost))).toFixed(1)} % of it lost in a frame`,
        text: `In ${framesText(frames)} it got from where it was to the edge of the bounds within a frame: it goes ${formatQuantity(travel, 'metre', { digits: 2 })} in one, the reach is ${formatQuantity(reach, 'metre', { digits: 2 })}. A longer reach keeps it.`,
        frames,
        remedies: [
          {
            title: `Reach ${formatQuantity(reach, 'metre', { digits: 2 })} → ${formatQuantity(wanted, 'metre')}`,
            edits: [{ path: 'bounds.reach', value: wanted }],
          },
        ],
      },
    ];
  },
};
