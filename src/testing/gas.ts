import type { GasOptions, GasFrame } from '#core/gas';
import { solveGas } from '#core/gas';
import type { Team } from '#kernels';
import { allOpen } from './grids';

type Deep<T> = T extends readonly unknown[] ? T : T extends object ? { readonly [K in keyof T]?: Deep<T[K]> } : T;

const base: GasOptions = {
  voxelSize: 0.1,
  framesPerSecond: 24,
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
      mode: 'set',
      density: 1,
      heat: 200,
      velocity: null,
      blendTime: 0.1,
      noise: null,
      from: null,
      to: null,
    },
  ],
  solids: [],
  forces: { wind: [0, 0, 0], windTime: null, turbulence: null, confinement: 0, confinementLength: 0.1 },
  matter: {
    ambient: 293.15,
    sinking: 0,
    lift: 0.03,
    liftLaw: 'linear',
    decayTime: null,
    decayRate: 0,
    coolingTime: null,
    velocityAdvection: 'maccormack',
    scalarAdvection: 'maccormack',
  },
};

/** A small hot puff in an open box; `changes` overrides parts of it. */
export function gasOptions(changes: Deep<GasOptions> = {}): GasOptions {
  const merge = (a: unknown, b: unknown): unknown => {
    if (b === undefined) return a;
    if (typeof a !== 'object' || a === null || Array.isArray(a) || typeof b !== 'object' || b === null) return b;
    const out: Record<string, unknown> = { ...(a as Record<string, unknown>) };
    for (const [k, v] of Object.entries(b)) out[k] = merge(out[k], v);
    return out;
  };
  return merge(base, changes) as GasOptions;
}

let ticks = 0;
export function runGas(team: Team, options: GasOptions, cancelled: () => boolean = () => false): GasFrame[] {
  return [
    ...solveGas(options, {
      team,
      clock: () => (ticks += 1e-3),
      channels: { names: ['density', 'temperature', 'vel'] },
      cancelled,
    }),
  ];
}
