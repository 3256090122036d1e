import type { Held } from './emission';

/** Seconds of one frame by stage. */
export const STAGES = [
  'sources',
  'sorting',
  'transfer',
  'surface',
  'forces',
  'viscosity',
  'pressure',
  'volume',
  'moving',
  'writing',
] as const;
export type Stage = (typeof STAGES)[number];

/** Where liquid went, cubic metres: start + filled + emitted - drained - walls + remainder = end. Of particles: what they hold. */
export interface VolumeLedger {
  start: number;
  filled: number;
  emitted: number;
  drained: number;
  /** Left through open walls of the limit box. */
  walls: number;
  remainder: number;
  end: number;
}

/** What a source that emits was asked for and gave since the start, cubic metres, and what holds up the rest. */
export interface SourceTold {
  /** Its number among the sources. */
  readonly source: number;
  readonly asked: number;
  readonly given: number;
  readonly held: Held | null;
}

export interface ParticleLie {
  /** Cells with liquid all around them, and those of them that hold no particle. */
  readonly bulk: number;
  readonly empty: number;
  /** Cells with more than twice the volume that they have room for. */
  readonly clumps: number;
  /** Particles that lie in a solid or beyond a closed wall, by the distances that they are stopped by; says nothing while a solid moves. */
  readonly inside: number;
  /** Voxels between the outermost particles and walls, under the surface; null: liquid meets no wall there. */
  readonly gap: { readonly mean: number; readonly largest: number } | null;
}

export interface LiquidReport {
  readonly frame: number;
  /** Seconds of the shot since its first frame. */
  readonly time: number;
  readonly seconds: Record<Stage, number>;
  readonly totalSeconds: number;
  /** Seconds of it in which other programs held the cores; reports of older runs and of browsers have none. */
  readonly waitedSeconds?: number;
  readonly particles: number;
  readonly liquidVoxels: number;
  readonly activeVoxels: number;
  readonly activeTiles: number;
  readonly window: readonly [number, number, number, number, number, number];
  /** Metres around the liquid; null: there is none. */
  readonly matterBox: readonly [number, number, number, number, number, number] | null;
  readonly memoryBytes: number;
  readonly substepsWanted: number;
  readonly substepsUsed: number;
  readonly substepSpeed: number;
  /** Fastest particle at the end of the frame, m/s. */
  readonly fastest: number;
  readonly cflReached: number;
  readonly iterations: number;
  readonly residual: number;
  readonly divergence: number;
  readonly converged: boolean;
  /** Whether every substep's viscosity was solved out; true where nothing is viscous. */
  readonly viscosityConverged: boolean;
  readonly volume: VolumeLedger;
  /** Of each source that emits; reports of older runs have none. */
  readonly sources?: readonly SourceTold[];
  /** Cubic metres by the surface, and what they should be by what came in and went out. */
  readonly surfaceVolume: number;
  readonly expectedVolume: number;
  readonly energy: {
    /** Joules: at the middle of the last substep, where velocities are. */
    readonly kinetic: number;
    /** Joules, from the origin against gravity. */
    readonly potential: number;
    /** Joules in the frame that the volume correction lifted the liquid by. */
    readonly correction: number;
    /** Joules in the frame that the liquid's motion paid for that; reports of older runs have none. */
    readonly paid?: number;
  };
  readonly walls: {
    /** Particles that met a wall in the frame, each substep counted. */
    readonly met: number;
    /** Particles inside a solid at the end of the frame: none, or the walls leak. */
    readonly inside: number;
  };
  /** How particles lie at the beginning of the last substep; null: nothing was stepped. */
  readonly lie: ParticleLie | null;
  readonly calibrationSeconds: number;
}
