import { DOWN, type LiquidFrame, type LiquidOptions, type LiquidSource, solveLiquid } from '#core/liquid';
import type { FormMaker, Shape } from '#core/geometry';
import type { Team } from '#kernels';
import { allClosed } from './grids';
import { type Deep, merged } from './values/merge';

/** A body of liquid that is there from the start. */
export const body = (shape: Shape, of: Partial<LiquidSource> = {}): LiquidSource => ({
  name: 'water',
  shape,
  shell: null,
  act: 'fills',
  velocity: [0, 0, 0],
  volumeRate: null,
  opening: 'shape',
  noise: null,
  viscosity: null,
  from: null,
  to: null,
  inherits: 1,
  turnsAbout: null,
  moves: {},
  ...of,
});

/** A box by its corners. */
export const boxOf = (min: readonly [number, number, number], max: readonly [number, number, number]): Shape => ({
  kind: 'box',
  centre: [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2],
  size: [max[0] - min[0], max[1] - min[1], max[2] - min[2]],
  rotation: [0, 0, 0],
});

const base: LiquidOptions = {
  voxelSize: 0.05,
  framesPerSecond: 24,
  timeScale: 1,
  firstFrame: 1,
  lastFrame: 4,
  preRoll: 0,
  firstFrameSolved: false,
  stepping: { cfl: 2, minimum: 1, maximum: 16, tolerance: 1e-4, iterations: 200 },
  bounds: { mode: 'adaptive', limit: { min: [0, 0, 0], max: [1.2, 1.2, 0.4] }, walls: allClosed, reach: 0.5 },
  sources: [body(boxOf([0, 0, 0], [1.2, 0.6, 0.4]))],
  solids: [],
  followed: {},
  forces: {
    gravity: DOWN,
    airDrag: 0,
    wind: [0, 0, 0],
    windTime: null,
    turbulence: null,
    fields: [],
    confinement: 0,
    confinementLength: 0.1,
    moves: {},
  },
  particles: { along: 2, band: null, inside: 1, jitter: 0.5, seed: 1 },
  matter: {
    density: 1000,
    viscosity: 0,
    tension: 0,
    transfer: 'apic',
    blendRate: 1,
    bounce: 0,
    friction: 0,
    volumeTime: 0.25,
    moves: {},
  },
};

/** A small tank, half full; `changes` overrides parts of it. */
export const liquidOptions = (changes: Deep<LiquidOptions> = {}): LiquidOptions => merged(base, changes);

/** Runs to the end with a clock that only counts. */
export function runLiquid(
  team: Team,
  options: LiquidOptions,
  extras: { readonly forms?: FormMaker; readonly each?: (frame: LiquidFrame) => void } = {},
): LiquidFrame[] {
  let ticks = 0;
  const frames: LiquidFrame[] = [];
  for (const frame of solveLiquid(options, {
    team,
    clock: () => (ticks += 1e-3),
    cancelled: () => false,
    ...(extras.forms ? { forms: extras.forms } : {}),
  })) {
    extras.each?.(frame);
    frames.push(frame);
  }
  return frames;
}
