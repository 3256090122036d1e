import { GRAVITY } from '#core/units';
import { shapeBounds } from '#core/geometry';
import { formatQuantity } from '#core/units';
import { type Check, type Finding, framesOf } from './finding';

/** Lift over that of real air at which size is misread. */
const TOO_STRONG = 3;
/** Lift that differs from real air's by more is a scaling too. */
const TWICE = 2;
const SMALLEST = 0.005;
const LARGEST = 500;

/** Source height, fastest speed, voxel size and gravity must be of one world. */
export const scale: Check = {
  id: 'scale',
  find({ shot, settings, plan, reports }) {
    const found: Finding[] = [];
    const { matter } = settings;
    const shown = settings.sources.filter((s) => !s.hidden);
    const heat = Math.max(0, ...shown.map((s) => Math.abs(s.heat ?? 0)));
    const heights = shown.map((s) => {
      const b = shapeBounds(s.shape);
      return { source: s, height: b.max[1] - b.min[1] };
    });
    if (heat > 0 && shot.timeScale !== 1) {
      const real = (GRAVITY * heat) / (matter.liftLaw === 'ideal' ? matter.ambient + heat : matter.ambient);
      const factor = Math.abs(matter.liftLaw === 'ideal' ? matter.lift * real : matter.lift * heat) / real;
      if (factor > TWICE || factor < 1 / TWICE) {
        // Slower time reads bigger by 1 / k^2, weaker lift by 1 / factor.
        const value = matter.liftLaw === 'ideal' ? 1 : Number((GRAVITY / matter.ambient).toPrecision(3));
        found.push({
          id: 'scale:two-ways',
          group: 'scale',
          severity: 'warning',
          title: 'Size is scaled in two ways at once',
          text: `The time scale of ${formatQuantity(shot.timeScale, 'none')} makes it read ${formatQuantity(1 / shot.timeScale ** 2, 'none', { digits: 3 })} times as big, lift at ${factor.toFixed(2)} of that of air another ${formatQuantity(1 / factor, 'none', { digits: 3 })} times: together ${formatQuantity(1 / (factor * shot.timeScale ** 2), 'none', { digits: 3 })}. Use one of them.`,
          frames: null,
          remedies: [
            {
              title: `Rise by heat ${formatQuantity(matter.lift, 'liftPerKelvin', { bare: true })} → ${formatQuantity(value, 'liftPerKelvin', { bare: true })}`,
              edits: [{ path: 'matter.lift', value }],
            },
          ],
        });
      }
    }
    if (heat > 0) {
      const real = (GRAVITY * heat) / (matter.liftLaw === 'ideal' ? matter.ambient + heat : matter.ambient);
      const lift = matter.liftLaw === 'ideal' ? matter.lift * real : matter.lift * heat;
      const factor = Math.abs(lift) / real;
      if (factor > TOO_STRONG) {
        const value = matter.liftLaw === 'ideal' ? 1 : Number((GRAVITY / matter.ambient).toPrecision(3));
        found.push({
          id: 'scale:lift',
          group: 'scale',
          severity: 'warning',
          title: `Heat lifts ${factor.toFixed(1)} times as strongly as in air`,
          text: `At ${formatQuantity(heat, 'kelvinDifference')} air is pushed up with ${formatQuantity(real, 'acceleration', { digits: 3 })}, here with ${formatQuantity(Math.abs(lift), 'acceleration', { digits: 3 })}: it moves like something ${factor.toFixed(1)} times smaller. If the set was built small, use the real-size calculator instead.`,
          frames: null,
          remedies: [
            {
              title: `Rise by heat ${formatQuantity(matter.lift, 'liftPerKelvin', { bare: true })} → ${formatQuantity(value, 'liftPerKelvin', { bare: true })}`,
              edits: [{ path: 'matter.lift', value }],
            },
          ],
        });
      }
    }
    for (const { source, height } of heights) {
      if (height >= SMALLEST && height <= LARGEST) continue;
      found.push({
        id: `scale:size:${source.name}`,
        group: 'scale',
        severity: 'warning',
        title: `${source.name} is ${formatQuantity(height, 'metre', { digits: 3 })} high`,
        text: `One scene unit is ${formatQuantity(shot.metresPerUnit, 'metre')}. Was the set built in other units? The real-size calculator of Scale puts it right in one edit.`,
        frames: null,
        remedies: [],
      });
    }
    const smallest = heights.reduce<(typeof heights)[number] | null>((a, b) => (a === null || b.height < a.height ? b : a), null);
    if (smallest) {
      const fps = plan.options.framesPerSecond;
      const steps = (r: { fastest: number; substepsUsed: number }): number =>
        r.fastest / fps / Math.max(1, r.substepsUsed) / smallest.height;
      const skipping = reports.filter((r) => steps(r) > 1);
      const worst = Math.max(0, ...skipping.map(steps));
      const own = Math.hypot(...(smallest.source.velocity ?? [0, 0, 0]));
      const set = own / fps / Math.max(1, settings.stepping.maxSubsteps) / smallest.height;
      if (worst > 1 || set > 1) {
        const most = Math.max(worst, set);
        const used = reports.length > 0 ? Math.max(1, ...skipping.map((r) => r.substepsUsed)) : settings.stepping.maxSubsteps;
        const wanted = Math.min(64, Math.ceil(most * used * 2));
        found.push({
          id: 'scale:speed',
          group: 'scale',
          severity: 'warning',
          title: `Matter crosses ${most.toFixed(1)} heights of ${smallest.source.name} in one substep`,
          text: `It is ${formatQuantity(smallest.height, 'metre', { digits: 3 })} high, ${(smallest.height / plan.options.voxelSize).toFixed(1)} voxels; what it emits leaves gaps. Take more substeps, a slower or a higher source, or look at the scale: speeds go with the square root of the size.`,
          frames: framesOf(skipping),
          remedies: [
            {
              title: `Fewest substeps ${String(settings.stepping.minSubsteps)} → ${String(wanted)}`,
              edits: [
                { path: 'stepping.minSubsteps', value: wanted },
                { path: 'stepping.maxSubsteps', value: Math.max(wanted, settings.stepping.maxSubsteps) },
              ],
            },
          ],
        });
      }
    }
    return found;
  },
};
