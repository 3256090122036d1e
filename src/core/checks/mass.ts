import { formatQuantity } from '#core/units';
import { type Check, type Remedy, framesOf, framesText } from './finding';

/** Of the mass at hand, a frame. */
const ALLOWED = 0.01;
/** Frames with less than this part of the run's largest mass say little: a few voxels at the source rule them. */
const ENOUGH = 0.25;

/** Advection itself makes or loses matter; above one per cent a frame the amount on screen is the grid's, not the shot's. */
export const numericalMass: Check = {
  id: 'numerical-mass',
  find({ settings, reports }) {
    const largest = Math.max(0, ...reports.map((r) => r.mass.end));
    const off = reports.filter((r) => r.mass.start > ENOUGH * largest && Math.abs(r.mass.advection) > ALLOWED * r.mass.start);
    const frames = framesOf(off);
    if (!frames) return [];
    const share = off.reduce((m, r) => (Math.abs(r.mass.advection / r.mass.start) > Math.abs(m) ? r.mass.advection / r.mass.start : m), 0);
    const { scalarAdvection } = settings.matter;
    const size = Number((settings.detail.voxelSize * 0.8).toPrecision(3));
    const remedies: Remedy[] = [];
    if (settings.stepping.cfl > 1) {
      remedies.push({
        title: `CFL number ${String(settings.stepping.cfl)} → 1`,
        edits: [
          { path: 'stepping.cfl', value: 1 },
          { path: 'stepping.maxSubsteps', value: Math.min(64, Math.max(settings.stepping.maxSubsteps, 2 * settings.stepping.maxSubsteps)) },
        ],
      });
    }
    remedies.push({
      title: `Voxel size ${formatQuantity(settings.detail.voxelSize, 'metre')} → ${formatQuantity(size, 'metre')}`,
      edits: [{ path: 'detail.voxelSize', value: size }],
    });
    if (!settings.matter.keepsMass) {
      remedies.unshift({ title: 'Keep the amount off → on', edits: [{ path: 'matter.keepsMass', value: true }] });
    }
    if (scalarAdvection === 'linear') {
      remedies.unshift({
        title: 'Advection of density Linear → MacCormack',
        edits: [{ path: 'matter.scalarAdvection', value: 'maccormack' }],
      });
    }
    return [
      {
        id: 'numerical-mass',
        group: 'matter',
        severity: 'warning',
        title: `Advection ${share > 0 ? 'adds' : 'loses'} up to ${Math.abs(100 * share).toFixed(1)} % of the matter a frame`,
        text: `In ${framesText(frames)}. No scheme on a grid keeps mass exactly; above 1 % it shows as smoke that swells or thins. Shorter substeps and finer voxels help.`,
        frames,
        remedies,
      },
    ];
  },
};
