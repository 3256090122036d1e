import type { KernelTeam, Pocket, PressureReport, PressureSolver } from '#core/grid';
import type { LiquidGrid } from './grid';
import type { LiquidOptions } from './options';

/** Of the volume that is too much (or too little) in a voxel: what is corrected at all, at most in a substep, and how exactly. */
const CROWDED = 0.01;
const MOST_CROWDING = 0.5;
/** Crowding at the surface and along walls that chance makes and that is let be; less, by so much a part that the liquid is short of: what is thin is all surface. */
const CHANCE = 0.1;
const LESS_CHANCE = 4;
const EVENING = 1e-2;
/** Part of its volume that all of the liquid is led back by at a time: a splash has more surface than it holds, and must not squeeze what lies still. */
const MOST_SHORT = 0.04;

/** Voxels of a face between liquid and air that the volume by the level set may be off by: .02 to .05 were measured on pools of all depths. */
const UNSURE = 0.03;

/** Voxels of liquid that there should be and that the level set has, and faces that it has towards air. */
export interface Amount {
  readonly expected: number;
  readonly seen: number;
  readonly faces: number;
}

/**
 * Where liquid has become too crowded (or, deep inside, too empty) a displacement of the particles gives it its volume back: that of the gradient of a second
 * pressure, which field `y` holds afterwards; as in implicit density projection (Kugelstadt, Longva, Thuerey, Bender 2019). It moves particles and no velocities:
 * the only work that it does is against gravity, and that is reported. null: nothing has to be moved.
 */
export function evenOut(
  team: KernelTeam,
  grid: LiquidGrid,
  pressure: PressureSolver,
  options: LiquidOptions,
  dt: number,
  { expected, seen, faces }: Amount,
  sums: number,
  /** What has no surface to make room at: it is evened out, and neither grows nor shrinks. */
  pockets: readonly Pocket[],
  cancelled: () => boolean,
): PressureReport | null {
  const f = grid.fields;
  const { slots, context } = grid;
  const off = expected / Math.max(1, seen) - 1;
  // The level set reads up to so much too little at a surface, and not too much: corrected for that, the liquid would be spread until its reading is right.
  const unsure = (UNSURE * faces) / Math.max(1, expected);
  const short = off < 0 ? Math.max(-MOST_SHORT, off) : Math.min(MOST_SHORT, Math.max(0, off - unsure));
  const part = -Math.expm1(-dt / options.matter.volumeTime);
  const chance = CHANCE - LESS_CHANCE * Math.max(0, Math.min(CHANCE / LESS_CHANCE, short));
  team.launch('crowding', slots, context, grid.sdf, f.phi, f.amount, short, f.ex);
  team.launch('evenCrowding', slots, context, grid.sdf, f.phi, f.ex, f.b, part, MOST_CROWDING, chance, sums);
  const peaks = team.floats(sums, slots);
  let largest = 0;
  for (let s = 0; s < slots; s++) largest = Math.max(largest, peaks[s] ?? 0);
  if (largest < CROWDED) return null;
  team.launch('fillTiles', slots, context, f.y, 0);
  return pressure.solve(
    { x: f.y, b: f.b, r: f.r, z: f.z, p: f.p, q: f.q, best: f.best },
    { tolerance: EVENING, iterations: options.stepping.iterations, divergence: 1, dtOverH: 1 },
    pockets,
    cancelled,
  );
}
