import { formatQuantity } from '#core/units';
import { type Check, type LiquidCheckInput, framesOf, framesText } from '../finding';

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
    const shorter = Number(Math.max(0.01, settings.matter.volumeTime / 3).toPrecision(2));
    const cfl = Number(Math.max(0.5, settings.stepping.cfl / 2).toPrecision(2));
    return [
      {
        id: 'volume',
        group: 'matter',
        severity: 'warning',
        title: `The liquid shrinks by up to ${(-100 * worst).toFixed(0)} %`,
        text: `In ${framesText(frames)}. Particles are crowded together faster than they spread again. Let them spread sooner, or take shorter substeps.`,
        frames,
        remedies: [
          ...(shorter < settings.matter.volumeTime
            ? [
                {
                  title: `Volume back in ${formatQuantity(settings.matter.volumeTime, 'second')} → ${formatQuantity(shorter, 'second')}`,
                  edits: [{ path: 'matter.volumeTime', value: shorter }],
                },
              ]
            : []),
          ...(cfl < settings.stepping.cfl
            ? [{ title: `CFL number ${String(settings.stepping.cfl)} → ${String(cfl)}`, edits: [{ path: 'stepping.cfl', value: cfl }] }]
            : []),
        ],
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
