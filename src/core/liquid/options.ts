import type { FlowMatter, FlowOptions, FlowSource } from '#core/flow';
import type { Vec3 } from '#core/math';

/** What a source does: fills its shape once, emits what it is asked for, keeps its shape full, or takes liquid away. */
export type SourceAct = 'fills' | 'emits' | 'keeps' | 'drains';

export interface LiquidSource extends FlowSource {
  readonly name: string;
  readonly act: SourceAct;
  /** What comes in has it, m/s. */
  readonly velocity: Vec3;
  /** Of one that emits, cubic metres a second; null: as much as its velocity carries through its opening. */
  readonly volumeRate: number | null;
  /** Of one that emits with a rate and a velocity: its opening is that of its shape and its speed follows, or its shape grows to the opening that both need. */
  readonly opening: 'shape' | 'fits';
  /** Noise on its speed: how much it varies, over what length (metres) and time (seconds). */
  readonly noise: {
    readonly amount: number;
    readonly size: number;
    readonly change: number;
    readonly octaves: number;
    readonly seed: number;
  } | null;
  /** Kinematic viscosity of its liquid, m^2/s; null: as Matter says. */
  readonly viscosity: number | null;
  /** First and last frame in which it acts; null: from the start, to the end. A fill acts once, at its first. */
  readonly from: number | null;
  readonly to: number | null;
  /** Part of a moving source's own velocity that its liquid takes along. */
  readonly inherits: number;
}

export interface LiquidMatter extends FlowMatter {
  /** kg/m^3: turns energies into what they are. */
  readonly density: number;
  /** Kinematic, m^2/s. */
  readonly viscosity: number;
  /** Of the surface, N/m; 0: none. */
  readonly tension: number;
  /** FLIP with PIC blended in, or affine particles. */
  readonly transfer: 'flip' | 'apic';
  /** Of FLIP: how fast particles take up the grid's velocity, a second. */
  readonly blendRate: number;
  /** Part of the speed into a wall that comes back, and Coulomb friction along it. */
  readonly bounce: number;
  readonly friction: number;
  /** Seconds in which crowded liquid spreads until it has its volume again. */
  readonly volumeTime: number;
}

/** Everything that a liquid run depends on, SI, resolved. */
export interface LiquidOptions extends FlowOptions<LiquidSource, LiquidMatter> {
  readonly particles: {
    /** Along a voxel's edge: n are n^3 in a voxel. */
    readonly along: number;
    /** Voxels under the surface down to which there are so many; null: everywhere. Deeper there are `inside` along a voxel's edge. */
    readonly band: number | null;
    readonly inside: number;
    /** 0: in rows; 1: anywhere in their share of the voxel. */
    readonly jitter: number;
    readonly seed: number;
  };
  readonly forces: FlowOptions['forces'] & {
    readonly gravity: Vec3;
    /** How fast the air slows particles, a second; 0: not at all. */
    readonly airDrag: number;
  };
}
