import { warmCalibration } from '#core/flow';
import { solveGas, type GasOptions } from '#core/gas';
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

/**
 * Runs every kernel a few times on a tiny grid: a baseline-compiled kernel is never replaced in the middle of a call, and the first
 * whole-grid call would run 2.3 times slower.
 */
export function warmUp(): void {
  const team = createTeam({ threads: 1 });
  warmCalibration(team);
  for (const _frame of solveGas(WARM, { team, clock: () => 0, channels: { names: [] }, cancelled: () => false })) {
    // Only the compiling counts.
  }
}
