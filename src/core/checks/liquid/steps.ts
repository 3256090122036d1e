import { coarseOf, tensionStep } from '#core/liquid';
import { formatQuantity } from '#core/units';
import { type Check, type LiquidCheckInput, framesOf, framesText } from '../finding';

const MOST_SUBSTEPS = 64;

/** Waves of tension are faster than the substeps that are allowed: they grow until drops burst. */
export const tensionSteps: Check<LiquidCheckInput> = {
  id: 'tension-step',
  find({ settings, plan }) {
    const { options } = plan;
    const needed = Math.ceil(1 / (options.framesPerSecond * tensionStep(options)));
    const allowed = options.stepping.maximum;
    if (needed <= allowed) return [];
    const atFinal = Math.ceil(1 / (options.framesPerSecond * tensionStep({ ...options, voxelSize: settings.detail.voxelSize })));
    const wanted = Math.max(needed, atFinal);
    // The substep goes with the voxel's size to the power of three halves.
    const larger = Number((options.voxelSize * (needed / allowed) ** (2 / 3) * 1.02).toPrecision(3));
    return [
      {
        id: 'tension-step',
        group: 'stepping',
        severity: 'warning',
        title: `Surface tension needs ${String(needed)} substeps a frame, ${String(allowed)} are allowed`,
        text: `On voxels of ${formatQuantity(options.voxelSize, 'metre', { digits: 3 })} its shortest waves grow with longer ones, until drops burst. Allow more substeps, take voxels of ${formatQuantity(larger, 'metre', { digits: 3 })} or do without tension.`,
        frames: null,
        remedies: [
          ...(wanted <= MOST_SUBSTEPS
            ? [
                {
                  title: `Most substeps ${String(settings.stepping.maxSubsteps)} → ${String(wanted)}`,
                  edits: [{ path: 'stepping.maxSubsteps', value: wanted }],
                },
              ]
            : []),
          { title: 'Surface tension → 0', edits: [{ path: 'matter.tension', value: 0 }] },
        ],
      },
    ];
  },
};

/** Tension that gravity drowns on voxels of this size: it takes time and shows nothing. */
export const unfeltTension: Check<LiquidCheckInput> = {
  id: 'unfelt-tension',
  find({ settings }) {
    const { tension, density } = settings.matter;
    const g = Math.hypot(...settings.forces.gravity);
    const h = settings.detail.voxelSize;
    if (tension === 0 || g === 0) return [];
    // Waves shorter than this are of tension, longer ones of gravity; two voxels are the shortest there are.
    const length = 2 * Math.PI * Math.sqrt(tension / (density * g));
    if (length >= 2 * h) return [];
    return [
      {
        id: 'unfelt-tension',
        group: 'matter',
        severity: 'note',
        title: 'Surface tension is not felt on these voxels',
        text: `It is stronger than gravity below ${formatQuantity(length, 'metre', { digits: 2 })}; two voxels are ${formatQuantity(2 * h, 'metre', { digits: 2 })}. It only takes time.`,
        frames: null,
        remedies: [{ title: 'Surface tension → 0', edits: [{ path: 'matter.tension', value: 0 }] }],
      },
    ];
  },
};

/** What is coarse comes to the surface within one substep: it is split too late. */
export const thinBand: Check<LiquidCheckInput> = {
  id: 'thin-band',
  find({ settings, plan, reports }) {
    const band = coarseOf(plan.options)?.band ?? null;
    if (band === null) return [];
    const wrong = reports.filter((r) => r.cflReached > band - 1);
    const frames = framesOf(wrong);
    if (!frames) return [];
    const farthest = Math.max(...wrong.map((r) => r.cflReached));
    const wanted = Math.min(64, Math.ceil(farthest) + 2);
    return [
      {
        id: 'thin-band',
        group: 'detail',
        severity: 'warning',
        title: `The fine layer is ${String(band)} voxels deep, particles cross ${farthest.toFixed(1)} in a substep`,
        text: `In ${framesText(frames)}. Coarse particles come to the surface before they are split: it is lumpy there. A deeper layer, or shorter substeps.`,
        frames,
        remedies: [
          ...(wanted > (settings.detail.band ?? Infinity)
            ? [{ title: `Fine layer ${String(band)} → ${String(wanted)} voxels`, edits: [{ path: 'detail.band', value: wanted }] }]
            : []),
        ],
      },
    ];
  },
};

/** Viscosity's system was not solved out: the liquid is thinner, or uneven, where it was not. */
export const viscositySteps: Check<LiquidCheckInput> = {
  id: 'viscosity-step',
  find({ settings, reports }) {
    const wrong = reports.filter((r) => !r.viscosityConverged);
    const frames = framesOf(wrong);
    if (!frames) return [];
    const { minSubsteps, maxSubsteps } = settings.stepping;
    const wanted = Math.min(MOST_SUBSTEPS, 2 * Math.max(minSubsteps, ...wrong.map((r) => r.substepsUsed)));
    return [
      {
        id: 'viscosity-step',
        group: 'stepping',
        severity: 'warning',
        title: 'Viscosity was not solved to its end',
        text: `In ${framesText(frames)}: too thick for steps so long on voxels so small. The liquid runs more easily there than its viscosity says. Shorter substeps, or a lower viscosity.`,
        frames,
        remedies:
          wanted > minSubsteps
            ? [
                {
                  title: `Fewest substeps ${String(minSubsteps)} → ${String(wanted)}`,
                  edits: [
                    { path: 'stepping.minSubsteps', value: wanted },
                    ...(wanted > maxSubsteps ? [{ path: 'stepping.maxSubsteps', value: wanted }] : []),
                  ],
                },
              ]
            : [],
      },
    ];
  },
};
