import { warmCalibration } from '#core/flow';
import { solveGas, type GasOptions } from '#core/gas';
import { DOWN, type LiquidOptions, solveLiquid } from '#core/liquid';
import { createTeam } from '#kernels';

const WARM: GasOptions = {
  voxelSize: 0.1,
  framesPerSecond: 24,
  timeScale: 1,
  firstFrame: 1,
  lastFrame: 3,
  preRoll: 0,
  firstFrameSolved: true,
  stepping: { cfl: 2, minimum: 2, maximum: 2, tolerance: 1e-4, iterations: 4 },
  bounds: {
    mode: 'dense',
    limit: { min: [0, 0, 0], max: [1.6, 1.6, 1.6] },
    walls: { left: 'open', right: 'open', floor: 'closed', ceiling: 'open', back: 'open', front: 'open' },
    reach: 1,
    quietDensity: 1e-3,
    quietHeat: 1,
    quietSpeed: 0.1,
    cutOff: 1e-4,
  },
  sources: [
    {
      name: '',
      shape: { kind: 'ball', centre: [0.8, 0.5, 0.8], radius: 0.3 },
      shell: null,
      mode: 'set',
      density: 1,
      heat: 100,
      fuel: 1,
      colour: [1, 1, 1],
      velocity: null,
      byDensity: false,
      stir: null,
      contact: null,
      blendTime: 1,
      noise: null,
      mask: null,
      from: null,
      to: null,
      inherits: 1,
      turnsAbout: null,
      moves: {},
    },
  ],
  solids: [
    {
      shape: { kind: 'ball', centre: [0.8, 1.2, 0.8], radius: 0.2 },
      body: 'filled',
      thickness: 0.1,
      offset: 0,
      voxelSize: null,
      turnsAbout: null,
      moves: {},
    },
  ],
  followed: {},
  forces: { wind: [1, 0, 0], windTime: 1, turbulence: null, fields: [], confinement: 0.1, confinementLength: 0.1, moves: {} },
  matter: {
    ambient: 293,
    sinking: 1,
    lift: 0.02,
    liftLaw: 'linear',
    decayTime: 1,
    decayRate: 0,
    coolingTime: 1,
    heatSpread: 0,
    smoothing: 0,
    sharpening: 0,
    fire: { ignition: 350, burnTime: 0.2, heat: 500, soot: 0.2, expansion: 1, loss: 1000 },
    colour: true,
    coordinates: false,
    velocityAdvection: 'maccormack',
    scalarAdvection: 'ppm',
    keepsMass: false,
    moves: {},
  },
};

const WARM_LIQUID: LiquidOptions = {
  ...WARM,
  bounds: { ...WARM.bounds, mode: 'adaptive' },
  sources: [
    {
      name: '',
      shape: { kind: 'box', centre: [0.8, 0.4, 0.8], size: [1, 0.8, 1], rotation: [0, 0, 0] },
      shell: null,
      act: 'fills',
      velocity: [0.5, 0, 0],
      volumeRate: null,
      opening: 'shape',
      noise: null,
      viscosity: null,
      from: null,
      to: null,
      inherits: 1,
      turnsAbout: null,
      moves: {},
    },
  ],
  forces: { ...WARM.forces, gravity: DOWN, airDrag: 0, confinement: 0 },
  particles: { along: 2, band: 4, inside: 1, jitter: 0.5, seed: 1 },
  matter: {
    density: 1000,
    viscosity: 1e-3,
    tension: 10,
    transfer: 'apic',
    blendRate: 1,
    bounce: 0,
    friction: 0,
    volumeTime: 0.1,
    moves: {},
  },
};

/**
 * Runs every kernel of a kind of solve a few times on a tiny grid: a baseline-compiled kernel is never replaced in the middle of a call, and the first whole-grid
 * call would run 2.3 times slower.
 */
export function warmUp(kind: 'gas' | 'liquid'): void {
  const team = createTeam({ threads: 1 });
  warmCalibration(team);
  const clock = (): number => 0;
  const cancelled = (): boolean => false;
  const frames =
    kind === 'liquid'
      ? solveLiquid(WARM_LIQUID, { team, clock, cancelled })
      : solveGas(WARM, { team, clock, channels: { names: [] }, cancelled });
  for (const _frame of frames) {
    // Only the compiling counts.
  }
}
