import { streamOf } from '#core/liquid';
import { isAnimated } from '#core/geometry';
import { formatQuantity } from '#core/units';
import { type Check, type LiquidCheckInput, framesOf, framesText } from '../finding';

/** Particles ended inside a solid all the same. */
export const insideSolids: Check<LiquidCheckInput> = {
  id: 'inside-solid',
  find({ settings, reports }) {
    const moves = settings.solids.some((solid) => !solid.hidden && (Object.keys(solid.moves).length > 0 || isAnimated(solid.shape)));
    // What was filled against a wall that stands is pushed out of its edges in the first step, and is counted before that.
    const begins = moves ? undefined : reports.find((r) => r.substepsUsed > 0);
    const wrong = reports.filter((r) => r.walls.inside > 0 && r !== begins);
    const frames = framesOf(wrong);
    if (!frames) return [];
    const most = Math.max(...wrong.map((r) => r.walls.inside));
    const { maxSubsteps } = settings.stepping;
    const wanted = Math.min(64, maxSubsteps * 2);
    const { voxelSize } = settings.detail;
    const finer = Number((voxelSize / 1.5).toPrecision(3));
    return [
      {
        id: 'inside-solid',
        group: 'solids',
        severity: 'warning',
        title: `Up to ${String(most)} particles lie inside a solid`,
        text: moves
          ? `In ${framesText(frames)}. A solid that moves has caught them where there was no way out: between it and a wall, or in a corner. Shorter substeps, a slower motion, or more room.`
          : `In ${framesText(frames)}. They lie where two solids meet, or in a gap that is narrower than a voxel. They stay there, and are not lost. Finer voxels, or more room.`,
        frames,
        remedies: [
          moves
            ? {
                title: `Most substeps ${String(maxSubsteps)} → ${String(wanted)}`,
                edits: [{ path: 'stepping.maxSubsteps', value: wanted }],
              }
            : {
                title: `Voxel size ${formatQuantity(voxelSize, 'metre')} → ${formatQuantity(finer, 'metre')}`,
                edits: [{ path: 'detail.voxelSize', value: finer }],
              },
        ],
      },
    ];
  },
};

/** Over what gravity and sources explain. */
const BEYOND = 2.5;

/** Particles faster than anything explains: gravity over the height of the limit box, what sources give, what solids do. */
export const explosive: Check<LiquidCheckInput> = {
  id: 'explosive',
  find({ settings, plan, reports }) {
    const { bounds, sources, forces } = plan.options;
    // Half of a fall is known from the sheet; what moves solids only from the run.
    if (plan.options.solids.some((s) => Object.keys(s.moves).length > 0) || forces.fields.length > 0) return [];
    const height = Math.hypot(...([0, 1, 2] as const).map((a) => bounds.limit.max[a] - bounds.limit.min[a]));
    const fall = Math.sqrt(2 * Math.hypot(...forces.gravity) * height);
    const given = Math.max(0, ...sources.map((s) => (s.act === 'emits' ? streamOf(s.shape, s).speed : Math.hypot(...s.velocity))));
    const explained = fall + given;
    const wild = reports.filter((r) => r.fastest > BEYOND * explained);
    const frames = framesOf(wild);
    if (!frames || explained === 0) return [];
    const fastest = Math.max(...wild.map((r) => r.fastest));
    const cfl = Number((settings.stepping.cfl / 2).toPrecision(2));
    return [
      {
        id: 'explosive',
        group: 'stepping',
        severity: 'warning',
        title: `Particles at ${formatQuantity(fastest, 'speed', { digits: 2 })} shoot away`,
        text: `In ${framesText(frames)}. Gravity and sources explain up to ${formatQuantity(explained, 'speed', { digits: 2 })}. Steps that are too long do this: take a lower CFL number.`,
        frames,
        remedies: [
          { title: `CFL number ${String(settings.stepping.cfl)} → ${String(cfl)}`, edits: [{ path: 'stepping.cfl', value: cfl }] },
        ],
      },
    ];
  },
};
