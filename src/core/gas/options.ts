import type { Box3, Shape } from '#core/geometry';
import type { Walls } from '#core/grid';
import type { Vec3 } from '#core/math';
import type { Followed, Moves } from '#core/moves';

export type AdvectionName = 'linear' | 'maccormack' | 'bfecc' | 'cubic';

/** How a source's amounts are meant: held inside it, added each second, or approached with a time constant. */
export type EmissionMode = 'set' | 'add' | 'blend';

export interface EmissionNoise {
  /** 0 none .. 1: emission varies between nothing and twice its amount. */
  readonly amount: number;
  /** Size of its largest features, metres. */
  readonly size: number;
  /** Seconds in which it changes. */
  readonly change: number;
  readonly octaves: number;
  readonly seed: number;
}

export interface GasSource {
  readonly name: string;
  readonly shape: Shape;
  /** Thickness of the skin it emits from, half of it on either side of the surface; null: the whole volume. */
  readonly shell: number | null;
  readonly mode: EmissionMode;
  /** Density inside (set, blend) or a second (add). null: not touched. */
  readonly density: number | null;
  /** Kelvin above ambient (set, blend) or a second (add). null: not touched. */
  readonly heat: number | null;
  /** Fuel inside (set, blend) or a second (add); null: not touched. Nothing without a fire. */
  readonly fuel: number | null;
  /** Metres a second (set, blend) or a second (add). null: not touched. */
  readonly velocity: Vec3 | null;
  /** Time constant of `blend`, seconds. */
  readonly blendTime: number;
  readonly noise: EmissionNoise | null;
  /** First and last frame in which it emits; null: from the start, to the end. */
  readonly from: number | null;
  readonly to: number | null;
  /** Part of a moving source's own velocity that its gas takes along. */
  readonly inherits: number;
  /** Point of the shape at rest that its turn goes about; null: its centre. */
  readonly turnsAbout: Vec3 | null;
  readonly moves: Moves;
}

/** What burns, and what it turns into. */
export interface Fire {
  /** Fuel burns where it is at least this hot, kelvin. */
  readonly ignition: number;
  /** Seconds after which 1/e of burning fuel is left. */
  readonly burnTime: number;
  /** Kelvin that a unit of fuel gives to its voxel. */
  readonly heat: number;
  /** Density that a unit of fuel leaves. */
  readonly soot: number;
  /** Volume, in volumes of its voxel, that a unit of fuel adds. */
  readonly expansion: number;
  /** Kelvin a second that a flame 1000 K above ambient loses; goes with the fourth power. */
  readonly loss: number;
}

export interface GasSolid {
  readonly shape: Shape;
  readonly turnsAbout: Vec3 | null;
  readonly moves: Moves;
}

export interface Turbulence {
  /** Root mean square acceleration, m/s^2. */
  readonly strength: number;
  /** Size of its largest eddies, metres. */
  readonly size: number;
  /** Seconds in which the pattern changes. */
  readonly change: number;
  readonly octaves: number;
  readonly seed: number;
}

/** Everything that a gas run depends on, SI, resolved: a rung's voxel size, no units, no names that mean nothing to the solver. */
export interface GasOptions {
  readonly voxelSize: number;
  readonly framesPerSecond: number;
  readonly firstFrame: number;
  readonly lastFrame: number;
  readonly preRoll: number;
  /** Off: the first frame computed holds what the sources put there, without a step. */
  readonly firstFrameSolved: boolean;
  readonly stepping: {
    /** Voxels that the fastest matter may cross in a substep. */
    readonly cfl: number;
    readonly minimum: number;
    readonly maximum: number;
    readonly tolerance: number;
    readonly iterations: number;
  };
  readonly bounds: {
    readonly mode: 'fixed' | 'adaptive' | 'dense';
    readonly limit: Box3;
    readonly walls: Walls;
    /** Metres that adaptive bounds keep ahead of matter. */
    readonly reach: number;
    /** A tile sleeps below these: density, kelvin from ambient, metres a second from the wind. */
    readonly quietDensity: number;
    readonly quietHeat: number;
    readonly quietSpeed: number;
    /** Density below this is removed. */
    readonly cutOff: number;
  };
  readonly sources: readonly GasSource[];
  readonly solids: readonly GasSolid[];
  /** What the expressions of `moves` read. */
  readonly followed: Followed;
  readonly forces: {
    readonly wind: Vec3;
    /** Seconds in which the air takes up the wind. null: the wind only stands at the start and outside. */
    readonly windTime: number | null;
    readonly turbulence: Turbulence | null;
    /** Dimensionless; the force is strength x reference length x |curl|. */
    readonly confinement: number;
    readonly confinementLength: number;
    readonly moves: Moves;
  };
  readonly matter: {
    readonly ambient: number;
    /** Acceleration downwards per unit of density, m/s^2. */
    readonly sinking: number;
    /** Linear: m/s^2 per kelvin above ambient. Ideal gas: a factor on g (1 - Ta / T). */
    readonly lift: number;
    readonly liftLaw: 'linear' | 'ideal';
    /** Seconds after which 1/e of the density is left; null: no decay. */
    readonly decayTime: number | null;
    /** Density lost a second. */
    readonly decayRate: number;
    /** Seconds after which 1/e of the heat is left; null: no loss. */
    readonly coolingTime: number | null;
    /** null: nothing burns. */
    readonly fire: Fire | null;
    readonly velocityAdvection: AdvectionName;
    readonly scalarAdvection: AdvectionName;
    readonly moves: Moves;
  };
}

export const GRAVITY = 9.80665;
/** Density of air at 15 degrees, kg/m^3: turns energies a unit mass into joules. */
export const AIR = 1.225;
