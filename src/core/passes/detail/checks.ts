import type { PassFinding } from '#core/pass';
import type { DetailSettings } from '#core/shot';
import { formatQuantity } from '#core/units';
import { framesSaid, movedTooFar } from '../upscale';
import type { DetailCounts } from './detail';

type Told = DetailCounts & { readonly frame: number };

/** A pattern that lives shorter than this is seen to change, frames. */
const SHORT_LIFE = 12;
/** Part of the base's fastest above which what is added is no detail any more. */
const OVERPOWERS = 0.8;
/** Base voxels across the matter below which there are no eddies to go on from. */
const TOO_FEW = 8;

/** `8`, or `8-11`. */
function rangeOf(numbers: readonly number[]): string {
  const [low, high] = [Math.min(...numbers), Math.max(...numbers)];
  return low === high ? String(low) : `${String(low)}-${String(high)}`;
}

/** What the frames of a detail pass show that somebody should know. */
export function detailFindings({ mayMove, factor }: DetailSettings, reports: readonly Told[]): PassFinding[] {
  const found = movedTooFar(mayMove, reports, 'Shorten "Holds within", or lower the strength.');
  const frames = (of: (r: Told) => boolean): number[] => reports.filter(of).map((r) => r.frame);
  const half = reports.length / 2;
  const short = frames((r) => r.life !== null && r.life < SHORT_LIFE);
  if (short.length > half) {
    const lives = reports.flatMap((r) => (r.life !== null && r.life < SHORT_LIFE ? [r.life] : []));
    found.push({
      id: 'renewed-often',
      title: `The pattern is renewed every ${rangeOf(lives)} frames`,
      text: `In ${framesSaid(short)}: the motion stretches it faster than it can be followed, and the eddies flicker. Raise the stretch limit, or read every frame of the base.`,
    });
  }
  const strong = reports.filter((r) => r.added > OVERPOWERS * r.baseSpeed && r.baseSpeed > 0);
  if (strong.length > half) {
    const most = strong.reduce((a, b) => (b.added > a.added ? b : a));
    found.push({
      id: 'overpowers',
      title: 'What is added is as fast as the base itself',
      text: `At frame ${String(most.frame)} eddies reach ${formatQuantity(most.added, 'speed', { digits: 2 })}; the fastest of the base is ${formatQuantity(most.baseSpeed, 'speed', { digits: 2 })}. It tears the matter apart instead of detailing it: lower the strength.`,
    });
  }
  const thin = frames((r) => r.baseVoxels > 0 && r.across < TOO_FEW);
  if (thin.length > half) {
    const across = reports.filter((r) => r.baseVoxels > 0).map((r) => r.across);
    found.push({
      id: 'too-coarse',
      title: `The matter is ${rangeOf(across)} voxels of the base across`,
      text: `In ${framesSaid(thin)}: there are no eddies that factor ${String(factor)} could go on from: what is added is made up. Read a finer base.`,
    });
  }
  return found;
}
