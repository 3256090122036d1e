import type { BodyKind, Box3, Shape } from '#core/geometry';
import type { Walls } from '#core/grid';
import type { Vec3 } from '#core/math';
import type { Followed, Moves } from '#core/moves';

export type AdvectionName = 'linear' | 'maccormack' | 'bfecc' | 'cubic';

export interface Solid {
  readonly shape: Shape;
  /** What matter meets of it: all, a wall with room inside, or a skin on both sides of its surface. */
  readonly body: BodyKind;
  /** Of the wall or skin, metres. */
  readonly thickness: number;
  /** Voxels by which it is grown. */
  readonly offset: number;
  /** Between the samples of its distance when it is imported, metres; null: as the bounds' voxels. */
  readonly voxelSize: number | null;
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

/** Where a force acts: in a shape, fading out over `soft` metres across its surface; null: everywhere. */
export interface Region {
  readonly shape: Shape | null;
  readonly soft: number;
}

/** A force of the list. Rates and accelerations are those inside its region. */
export type ForceField = Region & { readonly moves: Moves } & (
    | ({ readonly kind: 'turbulence' } & Turbulence)
    /** A draught: the air takes up its velocity with a time constant. */
    | { readonly kind: 'draught'; readonly velocity: Vec3; readonly time: number }
    /** Matter takes up the velocity of the region's own material, times a factor, with a time constant. */
    | { readonly kind: 'guide'; readonly factor: number; readonly time: number }
    /** Slows the air down towards the wind with a time constant. */
    | { readonly kind: 'drag'; readonly time: number }
    /** Pulls matter (by its density) towards a point: strength is the acceleration of density 1 at the distance `reach`, where it is largest. */
    | { readonly kind: 'attraction'; readonly centre: Vec3; readonly strength: number; readonly reach: number }
    /** Vorticity confinement, of the strength's reference length. */
    | { readonly kind: 'curls'; readonly confinement: number }
  );

/** What every flow's sources have in common: where they are. */
export interface FlowSource {
  readonly shape: Shape;
  /** Thickness of the skin it emits from, half of it on either side of the surface; null: the whole volume. */
  readonly shell: number | null;
  /** Point of the shape at rest that its turn goes about; null: its centre. */
  readonly turnsAbout: Vec3 | null;
  readonly moves: Moves;
}

/** Numbers of the matter that may move. */
export interface FlowMatter {
  readonly moves: Moves;
}

/** What a run of any flow depends on, SI, resolved; gas and others add their own to sources, bounds and matter. */
export interface FlowOptions<Source extends FlowSource = FlowSource, Matter extends FlowMatter = FlowMatter> {
  readonly voxelSize: number;
  /** Frames in a second of the computation. */
  readonly framesPerSecond: number;
  /** Seconds of the computation in a second of the shot: what moves by itself moves in the shot's time. */
  readonly timeScale: number;
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
  };
  readonly sources: readonly Source[];
  readonly solids: readonly Solid[];
  /** What the expressions of `moves` read. */
  readonly followed: Followed;
  readonly forces: {
    readonly wind: Vec3;
    /** Seconds in which the air takes up the wind. null: the wind only stands at the start and outside. */
    readonly windTime: number | null;
    readonly turbulence: Turbulence | null;
    /** More forces, each in a region of its own. */
    readonly fields: readonly ForceField[];
    /** Dimensionless; the force is strength x reference length x |curl|. */
    readonly confinement: number;
    readonly confinementLength: number;
    readonly moves: Moves;
  };
  readonly matter: Matter;
}
