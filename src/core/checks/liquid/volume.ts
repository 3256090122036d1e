import { type Check, type LiquidCheckInput, framesOf, framesText } from '../finding';
import { spreadSooner } from './remedies';

/** Of the volume, where liquid stands still enough to be measured: a splash has more surface than it holds. */
const DRIFT = 0.03;

/** The liquid's volume, by its surface, is not what came in less what went out. */
export const volumeDrift: Check<LiquidCheckInput> = {
  id: 'volume',
  find({ settings, reports }) {
    const drift = (r: (typeof reports)[number]): number => r.surfaceVolume / r.expectedVolume - 1;
    // Of a spray nobody can say what its surface holds.
    const told = reports.filter((r) => r.substepsUsed > 0 && r.liquidVoxels > 1000 && r.expectedVolume > 0);
    const lost = told.filter((r) => drift(r) < -DRIFT);
    const frames = framesOf(lost);
    if (!frames || lost.length < 3) return [];
    const worst = Math.min(...lost.map(drift));
    return [
      {
        id: 'volume',
        group: 'matter',
        severity: 'warning',
        title: `The liquid shrinks by up to ${(-100 * worst).toFixed(0)} %`,
        text: `In ${framesText(frames)}. Particles are crowded together faster than they spread again. Let them spread sooner, or take shorter substeps.`,
        frames,
        remedies: spreadSooner(settings),
      },
    ];
  },
};

/** Part of everything that came in that may leave before it is said. */
const TELL = 0.01;

/** Liquid runs out of the limit box: the container is open where it should not be, or the box is too small. */
export const openContainer: Check<LiquidCheckInput> = {
  id: 'open-container',
  find({ settings, reports }) {
    const brought = reports.reduce((n, r) => n + r.volume.filled + r.volume.emitted, 0);
    const lost = reports.reduce((n, r) => n + r.volume.walls, 0);
    if (brought <= 0 || lost < TELL * brought) return [];
    const frames = framesOf(reports.filter((r) => r.volume.walls > (0.02 * lost) / reports.length));
    const { walls } = settings.bounds;
    const open = (Object.keys(walls) as (keyof typeof walls)[]).filter((w) => walls[w] === 'open');
    return [
      {
        id: 'open-container',
        group: 'bounds',
        severity: walls.floor === 'open' ? 'warning' : 'note',
        title: `${((100 * lost) / brought).toFixed(0)} % of the liquid leaves the limit box`,
        text: `In ${framesText(frames)}, through its open sides (${open.join(', ')}). What leaves is gone. Close the side, or put it further out.`,
        frames,
        remedies:
          walls.floor === 'open' ? [{ title: 'Floor (-y) open → closed', edits: [{ path: 'bounds.walls.floor', value: 'closed' }] }] : [],
      },
    ];
  },
};

/** Sides of the limit box by their axis: what of a matter box lies against them. */
const SIDES = [
  ['left', 0, 0],
  ['right', 0, 3],
  ['ceiling', 1, 4],
  ['back', 2, 2],
  ['front', 2, 5],
] as const;

/** Liquid stands against a closed side of a limit box that nobody drew: a wall that is not in the scene. */
export const againstLimit: Check<LiquidCheckInput> = {
  id: 'limit-box',
  find({ settings, plan, reports }) {
    if (settings.bounds.limit !== null) return [];
    const { min, max } = plan.options.bounds.limit;
    const h = plan.options.voxelSize;
    const meets = (box: readonly number[], axis: 0 | 1 | 2, at: number): boolean =>
      at < 3 ? (box[at] ?? 0) < min[axis] + h : (box[at] ?? 0) > max[axis] - h;
    const sides = SIDES.filter(
      ([name, axis, at]) =>
        settings.bounds.walls[name] === 'closed' && reports.some(({ matterBox }) => matterBox !== null && meets(matterBox, axis, at)),
    );
    const frames = framesOf(
      reports.filter(({ matterBox }) => matterBox !== null && sides.some(([, axis, at]) => meets(matterBox, axis, at))),
    );
    if (!frames) return [];
    const names = sides.map(([name]) => name);
    return [
      {
        id: 'limit-box',
        group: 'bounds',
        severity: 'warning',
        title: `Liquid stands against the limit box (${names.join(', ')})`,
        text: `In ${framesText(frames)}. The box lies around sources and solids by itself, and its closed sides hold the liquid like walls that are not in the scene. Open them, or set the box to the container.`,
        frames,
        remedies: [
          {
            title: `${names.join(', ')} closed → open`,
            edits: names.map((name) => ({ path: `bounds.walls.${name}`, value: 'open' })),
          },
        ],
      },
    ];
  },
};
