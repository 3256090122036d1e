import type { KernelTeam, Level } from '#core/grid';

/** An explicit step is stable up to a sixth. */
const MOST_DIFFUSED = 1 / 6;
/** A sharpening step stays within its neighbourhood up to a third. */
const MOST_SHARPENED = 1 / 3;
/** More steps than these are not taken in a substep: the effect is then less than asked for. */
const MOST_PASSES = 40;

/** In how many equal explicit steps an amount is taken, and how much of it each is. */
export function passesOf(amount: number, most: number): { readonly passes: number; readonly each: number } {
  const passes = Math.min(MOST_PASSES, Math.ceil(amount / most));
  return { passes, each: passes > 0 ? Math.min(most, amount / passes) : 0 };
}

/** Evens out a field of cells: `diffusivity` m^2/s for `dt` seconds. Nothing crosses a solid. */
export function spreadCells(
  team: KernelTeam,
  level: Level,
  field: number,
  scratch: number,
  diffusivity: number,
  dt: number,
  h: number,
): void {
  run(team, level, 'diffuse', field, scratch, level.status, passesOf((diffusivity * dt) / h ** 2, MOST_DIFFUSED));
}

/** Evens out one component of the velocity: an explicit viscosity, m^2/s. */
export function smoothFaces(
  team: KernelTeam,
  level: Level,
  field: number,
  scratch: number,
  viscosity: number,
  dt: number,
  h: number,
): void {
  run(team, level, 'diffuse', field, scratch, 0, passesOf((viscosity * dt) / h ** 2, MOST_DIFFUSED));
}

/** Drives a field of cells up its own slopes, without making or taking any of it. `rate` a second. */
export function sharpenCells(team: KernelTeam, level: Level, field: number, scratch: number, rate: number, dt: number): void {
  run(team, level, 'sharpen', field, scratch, level.status, passesOf(rate * dt, MOST_SHARPENED));
}

function run(
  team: KernelTeam,
  level: Level,
  kernel: 'diffuse' | 'sharpen',
  field: number,
  scratch: number,
  status: number,
  { passes, each }: ReturnType<typeof passesOf>,
): void {
  for (let n = 0; n < passes; n++) {
    team.launch(kernel, level.count, level.context, field, scratch, status, each);
    team.launch('copyTiles', level.count, level.context, scratch, field);
  }
}
