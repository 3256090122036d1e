import { limitWindow, pushOf, windowBytes } from '#core/gas';
import { type Box3, shapeBounds } from '#core/geometry';
import { windowOf } from '#core/grid';
import type { Plan } from '#core/shot';
import { type PredictedFrame, expectedSubsteps } from './extrapolate';
import { type Lessons, bytesOfVoxel } from './lessons';

/** Angle at which a plume widens, as a slope: what is measured on buoyant plumes (Morton, Taylor, Turner 1956: about 0.1 to 0.16 a side). */
const SPREAD = 0.15;
const ITERATIONS = 4;
/** Pressure solves of a substep. */
const solves = (plan: Plan): number => (plan.options.matter.velocityAdvection === 'reflection' ? 2 : 1);

/** Sum of a geometric approach to `speed` with a time constant. */
const drift = (speed: number, constant: number | null, t: number): number => {
  if (constant === null) return 0;
  return speed * (t - constant * -Math.expm1(-t / constant));
};

/**
 * Frames of a plan from its settings alone, when nothing comparable was ever run: each source's plume is swept along wind, lift and its own
 * velocity, and widens as plumes do. Good for the order of size only, and the range says so.
 */
export function guessFrames(plan: Plan, lessons: Lessons): PredictedFrame[] {
  const o = plan.options;
  const h = o.voxelSize;
  const limit = limitWindow(o);
  const most = limit.nx * limit.ny * limit.nz;
  const begin = o.firstFrame - o.preRoll;
  const reach = o.bounds.mode === 'adaptive' ? Math.max(o.bounds.reach, 3 * h) : 3 * h;
  const plumes = o.sources.map((s) => {
    const box: Box3 = shapeBounds(s.shape);
    const size = [0, 1, 2].map((a) => box.max[a as 0 | 1 | 2] - box.min[a as 0 | 1 | 2]) as [number, number, number];
    const push = pushOf(o.matter, s.density ?? 0, s.heat ?? 0);
    const width = Math.max(...size);
    // A body of gas under this push moves at about sqrt(push x its size).
    const rise = Math.sign(push) * Math.sqrt(Math.abs(push) * width) * 1.2;
    return { size, rise, own: s.velocity ?? ([0, 0, 0] as const), width };
  });
  const frames: PredictedFrame[] = [];
  for (let frame = begin; frame <= o.lastFrame; frame++) {
    const t = (frame - begin) / o.framesPerSecond;
    let volume = 0;
    const span: [number, number, number] = [0, 0, 0];
    let speed = 0;
    for (const p of plumes) {
      const move = ([0, 1, 2] as const).map((a) => {
        const jet = p.own[a] * Math.min(t, p.width / Math.max(0.1, Math.abs(p.own[a])) + 0.3 * t);
        return drift(o.forces.wind[a], o.forces.windTime, t) + jet + (a === 1 ? p.rise * t : 0);
      });
      const length = Math.hypot(...move);
      const radius = p.width / 2 + SPREAD * length * 0.6;
      const across = 2 * radius + 2 * reach + lessons.widening * h * 0.7;
      const along = length + 2 * radius + 2 * reach + lessons.widening * h * 0.7;
      volume += across ** 2 * along;
      ([0, 1, 2] as const).forEach((a) => (span[a] = Math.max(span[a], Math.abs(move[a] ?? 0) + 2 * radius + 2 * reach)));
      speed = Math.max(speed, Math.hypot(...p.own) + 1.5 * Math.abs(p.rise), Math.hypot(...o.forces.wind));
    }
    const dense = o.bounds.mode === 'dense';
    const voxels = dense ? most : Math.min(most, Math.max(512, volume / h ** 3));
    const window = ([0, 1, 2] as const).map((a) => {
      const all = [limit.nx, limit.ny, limit.nz][a] ?? 8;
      return o.bounds.mode === 'adaptive' ? Math.min(all, 8 * Math.ceil(span[a] / h / 8 + 2)) : all;
    }) as unknown as [number, number, number];
    const substeps = frame === begin && !o.firstFrameSolved ? 0 : expectedSubsteps(speed, plan);
    frames.push({
      frame,
      voxels,
      window,
      memoryBytes: windowBytes(windowOf([0, 0, 0], window), o.matter),
      substeps,
      iterations: substeps * ITERATIONS * solves(plan),
      bytes: frame >= o.firstFrame || plan.keep.preRoll ? voxels * bytesOfVoxel(plan) * lessons.bytesFactor : 0,
    });
  }
  return frames;
}
