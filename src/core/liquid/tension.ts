import type { KernelTeam } from '#core/grid';
import type { LiquidGrid } from './grid';
import type { LiquidOptions } from './options';

/** Times that the fraction of liquid is smoothed before its curvature is taken: particles leave their mark on it. */
const SMOOTHINGS = 4;

/** Longest substep in which waves of tension stay stable, seconds (Brackbill, Kothe, Zemach 1992, with air that weighs nothing); Infinity without tension. */
export const tensionStep = ({ matter, voxelSize: h }: Pick<LiquidOptions, 'matter' | 'voxelSize'>): number =>
  matter.tension > 0 ? Math.sqrt((matter.density * h ** 3) / (4 * Math.PI * matter.tension)) : Infinity;

/**
 * The pressure's unknown at the surface, into field `y`; returns it. Fields `r` and `z` are scratch, and 0 again. 0: there is no tension.
 */
export function curveSurface(team: KernelTeam, grid: LiquidGrid, { matter, voxelSize: h }: LiquidOptions, dt: number): number {
  if (matter.tension <= 0) return 0;
  const f = grid.fields;
  const { slots, context, solid } = grid;
  team.launch('liquidFraction', slots, context, solid, f.phi, f.r);
  let [from, into] = [f.r, f.z];
  for (let n = 0; n < SMOOTHINGS; n++) {
    team.launch('smoothFraction', slots, context, solid, from, into);
    [from, into] = [into, from];
  }
  team.launch('surfaceCurvature', slots, context, f.phi, from, (matter.tension * dt) / (matter.density * h * h), into);
  team.launch('nearestCurvature', slots, context, f.phi, from, into, f.y);
  team.launch('fillTiles', slots, context, f.r, 0);
  team.launch('fillTiles', slots, context, f.z, 0);
  return f.y;
}
