import type { AdvectionName, FlowMatter, FlowOptions, FlowSource } from '#core/flow';
import type { PictureMask } from '#core/geometry';
import type { Vec3 } from '#core/math';

/** Of matter also: flux sweeps that keep it. */
export type ScalarAdvectionName = AdvectionName | 'ppm';
/** Of velocity also: two half steps with a projection and a reflection between them. */
export type VelocityAdvectionName = AdvectionName | 'reflection';

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

/** Curl noise that a source gives its gas on top of its velocity. */
export interface Stir {
  /** Root mean square speed, m/s. */
  readonly speed: number;
  readonly size: number;
  readonly change: number;
  readonly octaves: number;
  readonly seed: number;
}

/** Emission only where the source is near a solid, and for a while after. */
export interface Contact {
  /** Metres from a solid's surface within which it emits; it fades out towards them. */
  readonly reach: number;
  /** Seconds in which a place that was touched falls to 1/e of its emission; null: it ends with the contact. */
  readonly trail: number | null;
}

export interface GasSource extends FlowSource {
  readonly name: string;
  readonly mode: EmissionMode;
  /** Density inside (set, blend) or a second (add). null: unchanged. */
  readonly density: number | null;
  /** Kelvin above ambient (set, blend) or a second (add). null: unchanged. */
  readonly heat: number | null;
  /** Fuel inside (set, blend) or a second (add); null: unchanged. Nothing without a fire. */
  readonly fuel: number | null;
  /** Of the density that it gives, red, green and blue, 0 to 1 (linear); counts where colour is carried. */
  readonly colour: Vec3;
  /** Metres a second (set, blend) or a second (add). null: unchanged. */
  readonly velocity: Vec3 | null;
  /** The velocity counts as much as there is density where it is given (1 and more: all of it). */
  readonly byDensity: boolean;
  readonly stir: Stir | null;
  readonly contact: Contact | null;
  /** Time constant of `blend`, seconds. */
  readonly blendTime: number;
  readonly noise: EmissionNoise | null;
  readonly mask: PictureMask | null;
  /** First and last frame in which it emits; null: from the start, to the end. */
  readonly from: number | null;
  readonly to: number | null;
  /** Part of a moving source's own velocity that its gas takes along. */
  readonly inherits: number;
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

export interface GasMatter extends FlowMatter {
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
  /** How fast heat evens out, m^2/s; nothing of it crosses a solid. */
  readonly heatSpread: number;
  /** The same for motion: a viscosity, m^2/s. */
  readonly smoothing: number;
  /** How strongly density is driven up its own slopes, a second; conserves it. */
  readonly sharpening: number;
  /** null: nothing burns. */
  readonly fire: Fire | null;
  /** Whether the colour of the sources is carried along with their density, and where in its source matter came from. */
  readonly colour: boolean;
  readonly coordinates: boolean;
  readonly velocityAdvection: VelocityAdvectionName;
  readonly scalarAdvection: ScalarAdvectionName;
  /** After each transport the density is scaled so that its sum is what it has to be. */
  readonly keepsMass: boolean;
}

/** Everything that a gas run depends on, SI, resolved: a rung's voxel size, no units, no names that mean nothing to the solver. */
export interface GasOptions extends FlowOptions<GasSource, GasMatter> {
  readonly bounds: FlowOptions['bounds'] & {
    /** A tile sleeps below these: density, kelvin from ambient, metres a second from the wind. */
    readonly quietDensity: number;
    readonly quietHeat: number;
    readonly quietSpeed: number;
    /** Density below this is removed. */
    readonly cutOff: number;
  };
}

/** Density of air at 15 degrees, kg/m^3: turns energies a unit mass into joules. */
export const AIR = 1.225;
