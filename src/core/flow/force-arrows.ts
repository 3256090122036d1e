import type { FormMaker } from '#core/geometry';
import type { Vec3 } from '#core/math';
import { regionWeight } from './force-fields';
import type { SolverSeconds } from './clock';
import { Motion } from './moving';
import type { FlowOptions } from './options';
import { noisesOf, turbulenceAt } from './turbulence';

/** Forces on a plane: where, and which way they push still air of density 1. */
export interface ForceArrows {
  /** x, y, z a point, metres. */
  readonly points: Float32Array;
  /** x, y, z a point, m/s^2. */
  readonly pushes: Float32Array;
  /** The largest of them, m/s^2. */
  readonly most: number;
  /** Between the points, metres. */
  readonly spacing: number;
}

const ACROSS = 26;

/**
 * What the forces of the sheet do on a plane through the limit box: the wind and draughts as the push on still air, turbulence, attraction of matter of
 * density 1. Lift, drag and confinement depend on the motion and are not drawn.
 */
export function forceArrows(options: FlowOptions, forms: FormMaker, time: SolverSeconds, axis: 0 | 1 | 2, part: number): ForceArrows {
  const motion = new Motion(options, forms);
  const { wind, windTime, turbulence } = motion.forces(time);
  const drift = motion.drift(time);
  const noises = turbulence && noisesOf(turbulence);
  const fields = options.forces.fields.map((_f, n) => {
    const { field, pose } = motion.field(n, time);
    const form = motion.regionForm(n);
    return {
      field,
      lent: field.kind === 'guide' ? motion.fieldMotion(n, time) : null,
      region: form && pose ? form.distance(pose) : null,
      noises: field.kind === 'turbulence' ? noisesOf(field) : null,
    };
  });
  const pushAt = (p: Vec3): Vec3 => {
    const sum: [number, number, number] = [0, 0, 0];
    const add = (v: Vec3, by: number): void => {
      for (const a of [0, 1, 2] as const) sum[a] += v[a] * by;
    };
    if (windTime !== null) add(wind, 1 / windTime);
    if (turbulence && noises) add(turbulenceAt(noises, turbulence, p, drift, time), 1);
    for (const { field, region, lent, noises: own } of fields) {
      const weight = region ? regionWeight(region(...(p as [number, number, number])), field.soft) : 1;
      if (weight === 0) continue;
      if (field.kind === 'turbulence' && own) add(turbulenceAt(own, field, p, drift, time), weight);
      if (field.kind === 'guide' && lent) add(lent.velocity(...(p as [number, number, number])), (weight * field.factor) / field.time);
      if (field.kind === 'draught') add(field.velocity, weight / field.time);
      if (field.kind === 'attraction') {
        const to = field.centre.map((v, a) => (v - p[a as 0 | 1 | 2]) / field.reach) as [number, number, number];
        add(to, (weight * field.strength * 2) / (1 + to[0] ** 2 + to[1] ** 2 + to[2] ** 2));
      }
    }
    return sum;
  };
  const { min, max } = options.bounds.limit;
  const [b, c] = ([0, 1, 2] as const).filter((a) => a !== axis) as [0 | 1 | 2, 0 | 1 | 2];
  const spacing = Math.max(max[b] - min[b], max[c] - min[c]) / ACROSS;
  const points: number[] = [];
  const pushes: number[] = [];
  let most = 0;
  for (let t = min[c] + spacing / 2; t < max[c]; t += spacing) {
    for (let s = min[b] + spacing / 2; s < max[b]; s += spacing) {
      const p: [number, number, number] = [0, 0, 0];
      p[axis] = min[axis] + part * (max[axis] - min[axis]);
      p[b] = s;
      p[c] = t;
      const push = pushAt(p);
      points.push(...p);
      pushes.push(...push);
      most = Math.max(most, Math.hypot(...push));
    }
  }
  return { points: Float32Array.from(points), pushes: Float32Array.from(pushes), most, spacing };
}
