import type { KernelTeam } from '#core/grid';
import type { LiquidGrid } from './grid';
import type { ClosedFaces } from './moving-faces';

/** Faces that moving solids close, by component; null: none do. */
export type Closed = readonly [ClosedFaces, ClosedFaces, ClosedFaces] | null;

/**
 * Velocities (and, if there is one, the displacement in ex, ey, ez) beyond the liquid as far as particles may come, and along walls. Fields u0, v0, w0 become what
 * the substep changed.
 */
export function carryOn(team: KernelTeam, grid: LiquidGrid, layers: number, corrected: boolean, closed: Closed): void {
  const f = grid.fields;
  const { slots, context } = grid;
  [f.u, f.v, f.w].forEach((field, n) => {
    const other = corrected ? ([f.ex, f.ey, f.ez][n] ?? 0) : 0;
    for (let layer = 1; layer <= layers; layer++) team.launch('spreadFaces', slots, context, field, other, grid.known[n] ?? 0, layer);
  });
  slip(team, grid, ['u', 'v', 'w'], closed);
  if (corrected) slip(team, grid, ['ex', 'ey', 'ez'], null);
  [
    [f.u, f.u0],
    [f.v, f.v0],
    [f.w, f.w0],
  ].forEach(([field, before]) => {
    team.launch('differenceOf', slots, context, field ?? 0, before ?? 0, before ?? 0);
  });
}

/** Takes off what goes into walls; of velocities, walls that move bring their own. */
function slip(team: KernelTeam, grid: LiquidGrid, names: readonly ['u', 'v', 'w'] | readonly ['ex', 'ey', 'ez'], closed: Closed): void {
  const f = grid.fields;
  const { slots, context } = grid;
  const from = [f[names[0]], f[names[1]], f[names[2]]] as const;
  const into = [f.p, f.q, f.r] as const;
  const walls = closed ? ([f.b, f.z, f.best] as const) : ([0, 0, 0] as const);
  into.forEach((target, n) => {
    if (closed) layOut(team, grid, closed[n as 0 | 1 | 2], walls);
    team.launch('slipFaces', slots, context, grid.sdf, n, ...from, ...walls, target);
  });
  if (closed) for (const field of walls) team.launch('fillTiles', slots, context, field, 0);
  [f.p, f.q, f.r] = from;
  names.forEach((name, n) => (f[name] = into[n] ?? 0));
}

/** Velocities of moving walls into three fields that are 0 elsewhere. */
function layOut(team: KernelTeam, grid: LiquidGrid, { index, velocity }: ClosedFaces, into: readonly [number, number, number]): void {
  into.forEach((pointer, axis) => {
    team.launch('fillTiles', grid.slots, grid.context, pointer, 0);
    const field = team.floats(pointer, grid.size);
    for (let n = 0; n < index.length; n++) field[index[n] ?? 0] = velocity[3 * n + axis] ?? 0;
  });
}
