import { type Solid } from '#core/flow';
import { type GasChannel, type GasFrame, type GasOptions, type GasState } from '#core/gas';
import type { FormMaker, Picture, Shape } from '#core/geometry';
import { solveGas } from '#core/gas';
import type { Team } from '#kernels';
import { allOpen } from './grids';
import { type Deep, merged } from './values/merge';

const base: GasOptions = {
  voxelSize: 0.1,
  framesPerSecond: 24,
  timeScale: 1,
  firstFrame: 1,
  lastFrame: 4,
  preRoll: 0,
  firstFrameSolved: true,
  stepping: { cfl: 2, minimum: 1, maximum: 8, tolerance: 1e-4, iterations: 100 },
  bounds: {
    mode: 'adaptive',
    limit: { min: [0, 0, 0], max: [3.2, 3.2, 3.2] },
    walls: allOpen,
    reach: 0.5,
    quietDensity: 1e-3,
    quietHeat: 0.5,
    quietSpeed: 0.05,
    cutOff: 0,
  },
  sources: [
    {
      name: 'mouth',
      shape: { kind: 'ball', centre: [1.6, 0.8, 1.6], radius: 0.35 },
      shell: null,
      mode: 'set',
      density: 1,
      heat: 200,
      fuel: null,
      colour: [1, 1, 1],
      velocity: null,
      byDensity: false,
      stir: null,
      contact: null,
      blendTime: 0.1,
      noise: null,
      mask: null,
      from: null,
      to: null,
      inherits: 1,
      turnsAbout: null,
      moves: {},
    },
  ],
  solids: [],
  followed: {},
  forces: { wind: [0, 0, 0], windTime: null, turbulence: null, fields: [], confinement: 0, confinementLength: 0.1, moves: {} },
  matter: {
    ambient: 293.15,
    sinking: 0,
    lift: 0.03,
    liftLaw: 'linear',
    decayTime: null,
    decayRate: 0,
    coolingTime: null,
    heatSpread: 0,
    smoothing: 0,
    sharpening: 0,
    fire: null,
    colour: false,
    coordinates: false,
    velocityAdvection: 'maccormack',
    scalarAdvection: 'ppm',
    keepsMass: false,
    moves: {},
  },
};

/** A small hot puff in an open box; `changes` overrides parts of it. */
export function gasOptions(changes: Deep<GasOptions> = {}): GasOptions {
  return merged(base, changes);
}

export interface RunExtras {
  readonly cancelled?: () => boolean;
  readonly initial?: (state: GasState) => void;
  readonly channels?: readonly GasChannel[];
  readonly forms?: FormMaker;
  readonly pictures?: (hash: string) => Picture;
}

/** A solid that stands still. */
export const still = (shape: Shape): Solid => solid({ shape });

/** A solid: filled, at rest, but for what is said. */
export const solid = (of: Pick<Solid, 'shape'> & Partial<Solid>): Solid => ({
  body: 'filled',
  thickness: 0.1,
  offset: 0,
  voxelSize: null,
  turnsAbout: null,
  moves: {},
  ...of,
});

/** Runs to the end with a clock that only counts, so that reports are the same every time. */
export function runGas(team: Team, options: GasOptions, extras: RunExtras = {}): GasFrame[] {
  let ticks = 0;
  return [
    ...solveGas(options, {
      team,
      clock: () => (ticks += 1e-3),
      channels: { names: extras.channels ?? ['density', 'temperature', 'vel'] },
      cancelled: extras.cancelled ?? (() => false),
      ...(extras.initial ? { initial: extras.initial } : {}),
      ...(extras.forms ? { forms: extras.forms } : {}),
      ...(extras.pictures ? { pictures: extras.pictures } : {}),
    }),
  ];
}

/** Values of a channel by world voxel; where no tile holds it, the background. */
export function voxelsOf(frame: Pick<GasFrame, 'grids'>, name: string): (x: number, y: number, z: number, component?: number) => number {
  const grid = frame.grids.find((g) => g.name === name);
  if (!grid) throw new Error(`no channel ${name}`);
  const tiles = new Map<string, number>();
  for (let t = 0; t < grid.origins.length / 3; t++) tiles.set(grid.origins.subarray(3 * t, 3 * t + 3).join(), t);
  return (x, y, z, component = 0) => {
    const t = tiles.get([x & ~7, y & ~7, z & ~7].join());
    if (t === undefined) return grid.background[component] ?? 0;
    const n = ((x & 7) << 6) | ((y & 7) << 3) | (z & 7);
    return grid.values[(t * 512 + n) * grid.components + component] ?? 0;
  };
}

/** Sum of a scalar channel over its active voxels. */
export function sumOf(frame: Pick<GasFrame, 'grids'>, name: string): number {
  return frame.grids.find((g) => g.name === name)?.values.reduce((a, b) => a + b, 0) ?? 0;
}
