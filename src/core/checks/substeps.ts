import { formatQuantity } from '#core/units';
import { type Check, type FlowCheckInput, framesOf, framesText } from './finding';

/** The maximum of substeps was reached: matter crosses more voxels than the CFL number says, skips thin solids and smears. */
export const substepLimit: Check<FlowCheckInput> = {
  id: 'substep-limit',
  find({ settings, reports, plan }) {
    // Surface tension wants substeps for waves, not for what moves far: a finding of its own.
    const waves = 'tension' in plan.options.matter && plan.options.matter.tension > 0;
    const bound = reports.filter((r) => r.substepsWanted > r.substepsUsed && (!waves || r.cflReached > settings.stepping.cfl));
    const worst = bound.reduce((a, r) => (r.cflReached > (a?.cflReached ?? 0) ? r : a), bound[0]);
    const frames = framesOf(bound);
    if (!worst || !frames) return [];
    const { maxSubsteps, cfl } = settings.stepping;
    const here = Math.max(...bound.map((r) => r.substepsWanted));
    // A coarse run skips fewer voxels: the remedy is for the settings, whose voxels are finer.
    const fastest = Math.max(...bound.map((r) => r.substepSpeed));
    const atFinal = Math.ceil(fastest / (plan.options.framesPerSecond * cfl * settings.detail.voxelSize));
    const wanted = Math.min(64, Math.max(here, atFinal));
    const allowed = plan.options.stepping.maximum;
    return [
      {
        id: 'substep-limit',
        group: 'stepping',
        severity: 'warning',
        title: `Substeps hit their maximum of ${String(allowed)}`,
        text: `In ${framesText(frames)} matter moved up to ${worst.cflReached.toFixed(1)} voxels a substep at ${formatQuantity(worst.fastest, 'speed', { digits: 3 })}, where the CFL number allows ${String(cfl)}. Fast parts smear and can pass through thin solids. Allow more substeps${wanted > here ? `: the Final's finer voxels want ${String(wanted)}` : ''}.`,
        frames,
        remedies:
          wanted > maxSubsteps
            ? [
                {
                  title: `Most substeps ${String(maxSubsteps)} → ${String(wanted)}`,
                  edits: [{ path: 'stepping.maxSubsteps', value: wanted }],
                },
              ]
            : [],
      },
    ];
  },
};
