import type { Wall } from '#core/grid';

/** Seconds of one frame by stage. */
export type Stage = 'sources' | 'forces' | 'advection' | 'pressure' | 'bounds' | 'writing';
export const STAGES: readonly Stage[] = ['sources', 'forces', 'advection', 'pressure', 'bounds', 'writing'];

/**
 * Where an amount went, summed in float64: density x m^3, or kelvin above ambient x m^3. start + sources + advection + expansion + burning - walls - crop -
 * asleep - decay - cutOff - solids + remainder = end.
 * `advection` is the scheme's own numerical change; `walls` what left through each open wall; `crop` what crossed into sleeping tiles;
 * `burning` the soot or the heat that fire made; `expansion` the heat that a growing volume keeps its temperature with; `decay` what faded, or cooled;
 * `solids` what moving solids covered, less what was filled in behind them; `asleep` what was in tiles when they went to sleep; `remainder` is rounding.
 */
export interface Ledger {
  start: number;
  sources: number;
  advection: number;
  walls: Record<Wall, number>;
  crop: number;
  asleep: number;
  decay: number;
  cutOff: number;
  solids: number;
  burning: number;
  expansion: number;
  remainder: number;
  end: number;
}

/** Of what a run carries: density and heat. */
export interface Amounts {
  mass: number;
  heat: number;
}
export type Ledgers = Record<keyof Amounts, Ledger>;

export interface FrameReport {
  readonly frame: number;
  /** Seconds of the shot since its first frame. */
  readonly time: number;
  /** Computing time, seconds. */
  readonly seconds: Record<Stage, number>;
  readonly totalSeconds: number;
  /** Seconds of it in which other programs held the cores; reports of older runs and of browsers have none. */
  readonly waitedSeconds?: number;
  readonly activeVoxels: number;
  readonly activeTiles: number;
  /** Voxels that would be active with half the voxel size, for the same matter; reports of before gas-6 have none. */
  readonly finerVoxels?: number;
  /** Of those, tiles that hold matter; the others are reach. */
  readonly matterTiles: number;
  /** World voxels: origin and size. */
  readonly window: readonly [number, number, number, number, number, number];
  /** Metres around matter and emitting sources, lowest and highest corner, at the frame's last substep; null: there was none. */
  readonly matterBox: readonly [number, number, number, number, number, number] | null;
  /** Memory that the window's fields and the multigrid take, bytes. */
  readonly memoryBytes: number;
  readonly substepsWanted: number;
  readonly substepsUsed: number;
  /** Speed that decided about the substeps, the acceleration within them included, m/s. */
  readonly substepSpeed: number;
  /** Fastest component anywhere at the end of the frame, m/s. */
  readonly fastest: number;
  /** Voxels that the fastest matter crossed in the longest substep. */
  readonly cflReached: number;
  /** Pressure iterations, all substeps together. */
  readonly iterations: number;
  /** Largest true relative residual of the frame's pressure solves. */
  readonly residual: number;
  /** Largest |divergence| x dt left by a pressure solve. */
  readonly divergence: number;
  readonly converged: boolean;
  /** Volume a second that burning or moving solids made or took in a sealed pocket, where it has nowhere to go: the frame's largest, m^3/s. */
  readonly trapped: number;
  /** Mean squared difference of velocities a voxel apart over that of four voxels, in tiles with matter: 0.40 turbulent (Kolmogorov), 0.06 smooth. */
  readonly roughness: number;
  /** Joules at the end of the frame, and watts averaged over it. */
  readonly energy: {
    readonly kinetic: number;
    readonly buoyancy: number;
    readonly forces: number;
    readonly confinement: number;
    /** What velocity smoothing took. */
    readonly smoothing: number;
    /** What advection and projection took (negative) or gave. */
    readonly loss: number;
  };
  readonly mass: Ledger;
  /** Of the heat; reports of before gas-5 have none. */
  readonly heat?: Ledger;
  readonly maxima: { readonly density: number; readonly temperature: number; readonly speed: number };
  /** How long the calibration kernel took, seconds: the machine's speed at that moment. */
  readonly calibrationSeconds: number;
  /** Of a run with several bounds: the report of each, this one being all of them together. */
  readonly parts?: readonly FrameReport[];
}

export const emptyLedger = (): Ledger => ({
  start: 0,
  sources: 0,
  advection: 0,
  walls: { left: 0, right: 0, floor: 0, ceiling: 0, back: 0, front: 0 },
  crop: 0,
  asleep: 0,
  decay: 0,
  cutOff: 0,
  solids: 0,
  burning: 0,
  expansion: 0,
  remainder: 0,
  end: 0,
});

export const emptyLedgers = (): Ledgers => ({ mass: emptyLedger(), heat: emptyLedger() });

/** Closes the ledger: the remainder is what the entries do not explain. */
export function closeLedger(ledger: Ledger, end: number): void {
  ledger.end = end;
  const walls = Object.values(ledger.walls).reduce((a, b) => a + b, 0);
  const expected =
    ledger.start +
    ledger.sources +
    ledger.advection -
    walls -
    ledger.crop -
    ledger.asleep -
    ledger.decay -
    ledger.cutOff -
    ledger.solids +
    ledger.burning +
    ledger.expansion;
  ledger.remainder = end - expected;
}
