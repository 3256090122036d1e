import type { Box3 } from '#core/geometry';
import { type KernelTeam, type Level, TILE } from '#core/grid';
import type { PlainBounds } from './bounds';
import type { FlowFields } from './fields';
import { TileRuns } from './tile-runs';

/** Shares of an axis' fluxes that each sweep takes: a palindrome, so that odd and even steps of a steady flow do the same. */
const SWEEPS = [
  [0, 0.5],
  [1, 0.5],
  [2, 1],
  [1, 0.5],
  [0, 0.5],
] as const;
/** More rounds for what sweeps had to hold back so that no cell was emptied; what is then still left does not move in this step. */
const ROUNDS = 3;
/** Buffers of a line, see carry.ts of the kernels. */
const BUFFERS = 10;
const PAD_BYTES = 48;
/** Float64 a run that the kernel writes. */
const OUT = 7;
/** Density, temperature, fuel, colour and coordinates, and one to spare. */
const MOST_CARRIED = 10;

/** A field, and what counts as nothing in it. */
interface CarriedScalar {
  readonly field: number;
  readonly nothing: number;
}

/** What of a scalar left through a low and a high wall of each axis (-x +x -y +y -z +z), and into sleeping tiles; scalar x voxels. */
export interface Left {
  readonly walls: Float64Array;
  crop: number;
}

/**
 * Carries scalars as amounts, by flux sweeps with a carried volume (src/kernels/assembly/carry.ts): nothing is made or lost but what crosses the edge of
 * the active tiles. Sources act before or after the whole step, never between sweeps.
 *
 * Rejected, by measurement: x y z and z y x in alternation (a steady flow then flickers with period two, 1.6 % in L1 at CFL 2), a fixed order x y z
 * (0.24 against 0.045 on a rotated blob), sweeps without the carried volume (a constant is off by 12 at CFL 4).
 */
export class Carrying {
  readonly #runs: TileRuns;
  readonly #list: number;
  readonly #lines: number;
  readonly #lineBytes: number;
  readonly #longest: number;
  readonly #out: number;

  constructor(
    private readonly team: KernelTeam,
    private readonly grid: { readonly voxelSize: number; readonly limit: Box3 },
    private readonly bounds: Pick<PlainBounds, 'hierarchy' | 'window' | 'limit'>,
    private readonly fields: Pick<FlowFields, 'u' | 'v' | 'w' | 'p' | 'r' | 'z' | 'q'>,
    tileCapacity: number,
  ) {
    const { limit } = bounds;
    this.#runs = new TileRuns(team, tileCapacity);
    this.#list = team.allocate(MOST_CARRIED * 8);
    // Windows may reach a tile beyond the limit where they are made to nest.
    this.#longest = Math.max(limit.nx, limit.ny, limit.nz) + TILE;
    this.#lineBytes = Math.ceil((BUFFERS * (this.#longest * 16 + 2 * PAD_BYTES + 16) + PAD_BYTES) / 64) * 64;
    this.#lines = team.allocate(team.threads * this.#lineBytes);
    this.#out = team.allocate(tileCapacity * OUT * 8);
  }

  /** To be called whenever the bounds changed. */
  boundsChanged(): void {
    this.#runs.rebuild(this.bounds.hierarchy.finest);
  }

  /**
   * Carries the scalars by `dt / h` = c. Needs f.p and f.r, f.z, f.q as scratch; leaves them 0, but for the volumes' excess in f.p, until `done`.
   * Returns what of the first two left.
   */
  run(c: number, scalars: readonly CarriedScalar[]): readonly [Left, Left] {
    const { team, fields: f } = this;
    const level = this.bounds.hierarchy.finest;
    const [pointers, values] = [team.words(this.#list, scalars.length * 2), team.floats(this.#list, scalars.length * 2)];
    scalars.forEach(({ field, nothing }, n) => {
      pointers[2 * n] = field;
      values[2 * n + 1] = nothing;
    });
    const left: [Left, Left] = [
      { walls: new Float64Array(6), crop: 0 },
      { walls: new Float64Array(6), crop: 0 },
    ];
    const held = [false, false, false];
    SWEEPS.forEach(([axis, share], n) => {
      held[axis] = this.#sweep(level, axis, c * share, scalars.length, held[axis] ?? false, n === 0, left);
    });
    for (let round = 0; round < ROUNDS && held.some(Boolean); round++) {
      for (const [axis] of SWEEPS) {
        if (held[axis]) held[axis] = this.#sweep(level, axis, 0, scalars.length, true, false, left);
      }
    }
    [f.r, f.z, f.q].forEach((field, axis) => {
      if (held[axis]) team.launch('fillTiles', level.count, level.context, field, 0);
    });
    return left;
  }

  /** Forgets the volumes. */
  done(): void {
    const level = this.bounds.hierarchy.finest;
    this.team.launch('fillTiles', level.count, level.context, this.fields.p, 0);
  }

  /** Returns whether something was held back. */
  #sweep(
    level: Level,
    axis: 0 | 1 | 2,
    scale: number,
    count: number,
    takes: boolean,
    first: boolean,
    left: readonly [Left, Left],
  ): boolean {
    const { team, fields: f } = this;
    const { runs, order, count: n } = this.#runs.axes[axis];
    const [from, to] = this.#inside(axis);
    team.launch(
      'carry',
      n,
      level.context,
      runs,
      order,
      axis,
      [f.u, f.v, f.w][axis] ?? 0,
      scale,
      [f.r, f.z, f.q][axis] ?? 0,
      takes ? 1 : 0,
      f.p,
      first ? 1 : 0,
      this.#list,
      count,
      this.#lines,
      this.#lineBytes,
      this.#longest,
      from,
      to,
      this.#out,
    );
    const out = team.doubles(this.#out, n * OUT);
    let held = 0;
    for (let r = 0; r < out.length; r += OUT) {
      left.forEach((l, s) => {
        l.walls[2 * axis] = (l.walls[2 * axis] ?? 0) + (out[r + 3 * s] ?? 0);
        l.walls[2 * axis + 1] = (l.walls[2 * axis + 1] ?? 0) + (out[r + 3 * s + 1] ?? 0);
        l.crop += out[r + 3 * s + 2] ?? 0;
      });
      held += out[r + 6] ?? 0;
    }
    return held > 0;
  }

  /** First and last voxel of the window whose centre is not beyond the limit box. */
  #inside(axis: 0 | 1 | 2): [number, number] {
    const { window: w } = this.bounds;
    const { voxelSize: h, limit } = this.grid;
    const origin = [w.ox, w.oy, w.oz][axis] ?? 0;
    return [Math.ceil(limit.min[axis] / h - 0.5) - origin, Math.floor(limit.max[axis] / h - 0.5) - origin];
  }
}
