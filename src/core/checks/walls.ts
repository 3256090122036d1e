import { defaultLimit } from '#core/shot';
import { formatQuantity } from '#core/units';
import { type Check, type Finding, framesOf, framesText } from './finding';

const WALLS = {
  left: { title: 'left wall (-x)', axis: 0, end: 'min' },
  right: { title: 'right wall (+x)', axis: 0, end: 'max' },
  floor: { title: 'floor (-y)', axis: 1, end: 'min' },
  ceiling: { title: 'ceiling (+y)', axis: 1, end: 'max' },
  back: { title: 'back wall (-z)', axis: 2, end: 'min' },
  front: { title: 'front wall (+z)', axis: 2, end: 'max' },
} as const;
type Wall = keyof typeof WALLS;

/** Part of everything emitted that may leave before it is said. */
const TELL = 0.005;
/** How much further out the remedy puts a wall, of the box's size along that axis. */
const FURTHER = 0.3;

/** Matter left through an open wall of the limit box: cut off in the picture, and gone from the mass. */
export const openWalls: Check = {
  id: 'open-wall',
  find({ settings, reports }) {
    const brought = reports.reduce((n, r) => n + Math.max(0, r.mass.sources) + r.mass.burning, 0);
    if (brought <= 0) return [];
    const limit = settings.bounds.limit ?? defaultLimit(settings);
    return (Object.keys(WALLS) as Wall[]).flatMap((wall): Finding[] => {
      const lost = reports.reduce((n, r) => n + r.mass.walls[wall], 0);
      if (lost < TELL * brought) return [];
      const { title, axis, end } = WALLS[wall];
      const frames = framesOf(reports.filter((r) => r.mass.walls[wall] > (0.02 * lost) / reports.length));
      const size = limit.max[axis] - limit.min[axis];
      const at = limit[end][axis];
      const moved = Number((at + (end === 'max' ? 1 : -1) * FURTHER * size).toPrecision(4));
      const corner = [...limit[end]];
      corner[axis] = moved;
      return [
        {
          id: `open-wall:${wall}`,
          group: 'bounds',
          severity: 'warning',
          title: `${((100 * lost) / brought).toFixed(lost < 0.1 * brought ? 1 : 0)} % of the matter left through the ${title}`,
          text: `From frame ${String(frames?.from ?? 0)} on it met the limit box at ${formatQuantity(at, 'metre')} (${framesText(frames)}). What is seen there is cut off. Move the wall out, unless it should leave.`,
          frames,
          remedies: [
            {
              title: `${title.charAt(0).toUpperCase()}${title.slice(1)} ${formatQuantity(at, 'metre')} → ${formatQuantity(moved, 'metre')}`,
              edits: [{ path: 'bounds.limit', value: { ...limit, [end]: corner } }],
            },
          ],
        },
      ];
    });
  },
};
