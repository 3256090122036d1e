import { nearestMoving } from '#core/flow';
import { type KernelTeam, type MovingSolid, RECORD_WORDS, TILE } from '#core/grid';
import type { LiquidGrid } from './grid';
import type { LiquidOptions } from './options';

/** Gravity's own impulse in a substep, times this: what is pressed harder onto a wall has hit it, and bounces. */
const IMPACT = 4;
/** The least impulse that bounces, m/s: without gravity everything would. */
const LEAST_IMPACT = 0.01;

/** Bytes of what the kernel is told of its fields. */
export const RUB_LIST = 48;

const rubs = ({ matter }: LiquidOptions): boolean => matter.friction > 0 || matter.bounce > 0;

/** Keeps the velocities before the pressure, for rubAtWalls. */
export function beforeRubbing(team: KernelTeam, grid: LiquidGrid, options: LiquidOptions): void {
  if (!rubs(options)) return;
  const f = grid.fields;
  for (const [from, to] of [
    [f.u, f.ex],
    [f.v, f.ey],
    [f.w, f.ez],
  ] as const)
    team.launch('copyTiles', grid.slots, grid.context, from, to);
}

/**
 * Friction along walls and bounce off them, static and moving: what the pressure pushed the liquid off a wall by is the normal impulse (src/kernels/assembly/liquid-rub.ts). Fields `ex`, `ey`, `ez`
 * hold the velocities before the pressure; scratch fields of the pressure are 0 again. `kick`: seconds of gravity in the substep; `list`: room for
 * RUB_LIST bytes.
 */
export function rubAtWalls(
  team: KernelTeam,
  grid: LiquidGrid,
  options: LiquidOptions,
  moving: readonly MovingSolid[],
  kick: number,
  list: number,
): void {
  if (!rubs(options)) return;
  const f = grid.fields;
  const { slots, context, known } = grid;
  const { friction, bounce } = options.matter;
  const walls = moving.length > 0 ? wallVelocities(team, grid, options, moving) : ([0, 0, 0] as const);
  team.words(list, 12).set([f.u, f.v, f.w, f.ex, f.ey, f.ez, ...known, ...walls]);
  const gentle = Math.max(LEAST_IMPACT, IMPACT * Math.hypot(...options.forces.gravity) * kick);
  const into = [f.r, f.z, f.p] as const;
  for (const axis of [0, 1, 2] as const)
    team.launch('rubWalls', slots, context, grid.sdf, list, f.x, axis, friction, bounce, gentle, ...grid.tilesAcross, into[axis]);
  [f.u, f.v, f.w].forEach((field, axis) => {
    team.launch('copyTiles', slots, context, into[axis] ?? 0, field);
  });
  for (const field of [...into, ...walls]) if (field !== 0) team.launch('fillTiles', slots, context, field, 0);
}

/** Of the moving solid nearest to each cell near one, m/s, into fields `b`, `q` and `best`; 0 where what stands still is nearer. */
function wallVelocities(
  team: KernelTeam,
  grid: LiquidGrid,
  { voxelSize: h }: LiquidOptions,
  moving: readonly MovingSolid[],
): readonly [number, number, number] {
  const { window: w, slots, geometry, size, fields: f } = grid;
  const { sx, sp } = grid.level;
  const records = team.pointers(team.pointers(grid.context, 8)[5] ?? 0, slots * RECORD_WORDS);
  const into = [f.b, f.q, f.best] as const;
  for (const field of into) team.launch('fillTiles', slots, grid.context, field, 0);
  const values = into.map((field) => team.floats(field, size));
  for (let r = 0; r < records.length; r += RECORD_WORDS) {
    const [x0, y0, z0] = [(records[r + 1] ?? 0) + w.ox, (records[r + 2] ?? 0) + w.oy, (records[r + 3] ?? 0) + w.oz];
    if (!geometry.isNear(0, x0 / TILE, y0 / TILE, z0 / TILE)) continue;
    const base = records[r] ?? 0;
    for (let c = 0; c < 512; c++) {
      const [i, j, k] = [c & 7, (c >> 3) & 7, c >> 6];
      const [x, y, z] = [(x0 + i + 0.5) * h, (y0 + j + 0.5) * h, (z0 + k + 0.5) * h];
      const solid = nearestMoving(geometry, moving, x, y, z);
      if (!solid) continue;
      const at = base + k * sp + j * sx + i;
      solid.velocity(x, y, z).forEach((v, a) => {
        const field = values[a];
        if (field) field[at] = v;
      });
    }
  }
  return into;
}
