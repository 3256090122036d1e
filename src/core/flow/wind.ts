import type { KernelTeam, Level } from '#core/grid';
import type { Vec3 } from '#core/math';
import type { FlowFields } from './fields';

/**
 * The air takes up the wind: its motion along the wind comes closer to the wind's speed, `keep` of the difference is left. What goes across the wind (a
 * plume's rise in a level wind) is not touched, and where there is no wind nothing is: still air does not brake. Gas that should be slowed down on all
 * sides has the force *drag* for it.
 */
export function takeUpWind(team: KernelTeam, level: Level, f: FlowFields, wind: Vec3, keep: number): void {
  const speed = Math.hypot(...wind);
  if (speed === 0) return;
  const velocity = [f.u, f.v, f.w];
  const along = wind.findIndex((v) => v !== 0);
  if (wind.every((v, a) => v === 0 || a === along)) {
    team.launch('relax', level.count, level.context, velocity[along] ?? 0, wind[along] ?? 0, keep);
    return;
  }
  const [dx, dy, dz] = [wind[0] / speed, wind[1] / speed, wind[2] / speed];
  const targets = [f.a, f.b, f.c];
  targets.forEach((target, axis) => {
    team.launch('relaxAlong', level.count, level.context, f.u, f.v, f.w, axis, target, dx, dy, dz, speed, 1 - keep);
  });
  velocity.forEach((field, axis) => {
    team.launch('copyTiles', level.count, level.context, targets[axis] ?? 0, field);
  });
}
