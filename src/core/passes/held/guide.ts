import { limitWindow } from '#core/flow';
import type { GasOptions, GasState, Guide } from '#core/gas';
import type { KernelTeam } from '#core/grid';
import type { HeldSettings } from '#core/shot';
import {
  type BasePart,
  type CarriedAmount,
  type Lattice,
  LatticeFrame,
  type Moved,
  Room,
  type Spectra,
  amountsOf,
  fillChannel,
  latticeAround,
  loadAmounts,
  matterBoxes,
  movedFrom,
  pointsOf,
  relaid,
  smoothed,
  spectraOf,
} from '../upscale';

/** A frame of the base over its lattice. */
interface BaseFrame {
  readonly lattice: Lattice;
  /** m/s, 4 floats a point; the fourth is 1 where the base is awake. */
  readonly velocity: Float32Array;
}

/** Half a wave of this many voxels is let through by a Gaussian of a standard deviation of one: 2 pi / sqrt(2 ln 2). */
const HALF_AT = 5.34;

/**
 * Draws the large motion of a solve to that of a cached coarse run (spectral nudging: von Storch, Langenberg, Feser 2000). In each substep: the difference of the
 * base's velocity and the mean of the solve's over each base voxel, where the base is awake (fading out towards its rim), low-passed by a Gaussian that lets half of
 * a wave of the chosen length through; a part of it is added to the faces. What is smaller than the length is not touched.
 */
export class Hold {
  readonly #frame: LatticeFrame;
  readonly #per: number;
  readonly #within: Lattice;
  readonly #means: Room;
  readonly #change: Room;
  #before: BaseFrame | null = null;
  #after: BaseFrame | null = null;
  #amounts: CarriedAmount[] = [];
  /** Seconds at which the two frames are. */
  #times: readonly [number, number] = [0, 0];
  #state: GasState | null = null;

  constructor(
    private readonly team: KernelTeam,
    private readonly base: number,
    options: GasOptions,
    private readonly settings: Pick<HeldSettings, 'strength' | 'time' | 'length'>,
  ) {
    this.#per = base / options.voxelSize;
    this.#frame = new LatticeFrame(team, this.#per);
    const w = limitWindow({ voxelSize: base, bounds: options.bounds });
    this.#within = { low: [w.ox, w.oy, w.oz], size: [w.nx, w.ny, w.nz] };
    [this.#means, this.#change] = [new Room(team), new Room(team)];
  }

  /** The base at the moments before and after what is computed next. */
  between(before: readonly BasePart[], after: readonly BasePart[], times: readonly [number, number]): void {
    if (this.#after && this.#times[0] === times[0] && this.#times[1] === times[1]) return;
    const known = this.#after && this.#times[1] === times[0] ? this.#after : null;
    this.#before = known ?? this.#load(before);
    this.#after = this.#load(after);
    this.#times = times;
  }

  #load(parts: readonly BasePart[]): BaseFrame {
    const lattice = latticeAround(parts, this.base, this.#within);
    const points = pointsOf(lattice);
    const three = new Float32Array(3 * points);
    fillChannel(three, lattice, parts, 'vel', this.base);
    const awake = awakeIn(lattice, parts, this.base);
    const velocity = new Float32Array(4 * points);
    for (let n = 0; n < points; n++) {
      velocity[4 * n] = three[3 * n] as number;
      velocity[4 * n + 1] = three[3 * n + 1] as number;
      velocity[4 * n + 2] = three[3 * n + 2] as number;
      velocity[4 * n + 3] = awake[n] as number;
    }
    return { lattice, velocity };
  }

  /** Boxes of fine voxels that hold the matter of a frame of the base. */
  awake(parts: readonly BasePart[]): number[] {
    const lattice = latticeAround(parts, this.base, this.#within);
    return matterBoxes(this.#amountsIn(parts, lattice), lattice, this.#per);
  }

  #amountsIn(parts: readonly BasePart[], lattice: Lattice): Float32Array[] {
    this.#amounts = amountsOf(parts, ['density', 'temperature', 'fuel', 'flame', 'colour', 'uvw']);
    return loadAmounts(this.#amounts, lattice, parts, this.base);
  }

  /** Matter and motion of a frame of the base, as the solve begins with them. */
  fill(parts: readonly BasePart[], { fields, bounds }: GasState): void {
    const { team } = this;
    const lattice = latticeAround(parts, this.base, this.#within);
    const points = pointsOf(lattice);
    const level = bounds.hierarchy.finest;
    this.#frame.describe(lattice, bounds);
    const change = this.#change.floats(4 * points);
    this.#amountsIn(parts, lattice).forEach((amount, n) => {
      const { name } = this.#amounts[n] as CarriedAmount;
      const field = fields[name];
      if (field === 0) return;
      for (let p = 0; p < points; p++) {
        change[4 * p] = 0;
        change[4 * p + 1] = amount[p] as number;
      }
      const nothing = bounds.ambientOf(name);
      team.launch('holdCells', level.count, level.context, this.#frame.frame, this.#change.at, field, nothing, field, nothing);
    });
    const { velocity } = this.#load(parts);
    change.set(velocity);
    const { wind } = bounds;
    // On top of what stands there: the wind.
    for (let p = 0; p < points; p++) for (let a = 0; a < 3; a++) change[4 * p + a] = (change[4 * p + a] as number) - (wind[a] as number);
    team.launch('drawFaces', level.count, level.context, this.#frame.frame, this.#change.at, 1, fields.u, fields.v, fields.w);
  }

  readonly draw: Guide['draw'] = (state, time, dt) => {
    this.#state = state;
    const { settings } = this;
    if (!this.#difference(state, time)) return;
    const part = settings.strength * (1 - Math.exp(-dt / settings.time));
    if (part === 0) return;
    const { fields, bounds } = state;
    const level = bounds.hierarchy.finest;
    this.team.launch('drawFaces', level.count, level.context, this.#frame.frame, this.#change.at, part, fields.u, fields.v, fields.w);
  };

  /** Relative low-passed difference of the velocity, where the base is awake, at the time that a frame ends; null: nothing was drawn yet. */
  apart(time: number): number | null {
    return this.#state && this.#difference(this.#state, time);
  }

  /** Matter and motion of the frame that was reached against those of the base at the same frame. */
  against(parts: readonly BasePart[]): { readonly moved: Moved | null; readonly spectra: Spectra | null } {
    const after = this.#after;
    if (!this.#state || !after) return { moved: null, spectra: null };
    const { team } = this;
    const { fields, bounds } = this.#state;
    const { lattice, velocity } = after;
    const density = new Float32Array(pointsOf(lattice));
    fillChannel(density, lattice, parts, 'density', this.base);
    this.#frame.describe(lattice, bounds);
    const means = this.#means.floats(4 * pointsOf(lattice));
    const [, ny, nz] = lattice.size;
    const own = [fields.density, 0, fields.density, 0];
    team.launch('averageOver', ny * nz, bounds.hierarchy.finest.context, ...this.#frame.averaging(lattice, bounds), ...own, this.#means.at);
    return {
      moved: movedFrom(density, means, lattice, this.base),
      spectra: spectraOf(velocity, lattice, density, this.base, this.#per, team, bounds, fields),
    };
  }

  /** The low-passed difference into the change lattice. Returns it relative to the base's velocity; null: there is no base. */
  #difference({ fields, bounds }: GasState, time: number): number | null {
    const { team, settings } = this;
    const [before, after] = [this.#before, this.#after];
    if (!after) return null;
    const { lattice } = after;
    const points = pointsOf(lattice);
    const level = bounds.hierarchy.finest;
    const old = before ? relaid(before.velocity, before.lattice, lattice, 4, [...bounds.wind, 0]) : after.velocity;
    const [t0, t1] = this.#times;
    const share = before && t1 > t0 ? Math.min(1, Math.max(0, (time - t0) / (t1 - t0))) : 1;
    this.#frame.describe(lattice, bounds);
    const means = this.#means.floats(4 * points);
    const [, ny, nz] = lattice.size;
    const { u, v, w } = fields;
    team.launch('averageVelocity', ny * nz, level.context, ...this.#frame.averaging(lattice, bounds), u, v, w, this.#means.at);
    const change = this.#change.floats(4 * points);
    const whole = this.#per ** 3;
    let [off, norm] = [0, 0];
    for (let n = 0; n < points; n++) {
      const o = 4 * n;
      const asleep = old[o + 3] as number;
      const mask = (asleep + share * ((after.velocity[o + 3] as number) - asleep)) * Math.min(1, (means[o + 3] as number) / whole);
      for (let a = 0; a < 3; a++) {
        const was = old[o + a] as number;
        const wanted = was + share * ((after.velocity[o + a] as number) - was);
        change[o + a] = mask * (wanted - (means[o + a] as number));
        norm += mask * wanted * wanted;
      }
      change[o + 3] = mask;
    }
    lowPass(change, lattice, settings.length);
    for (let o = 0; o < change.length; o += 4) {
      const [x, y, z, mask] = [change[o] as number, change[o + 1] as number, change[o + 2] as number, change[o + 3] as number];
      off += mask * (x * x + y * y + z * z);
    }
    return norm > 0 ? Math.sqrt(off / norm) : 0;
  }
}

/** In place: a Gaussian that lets half of a wave of `length` points through. */
function lowPass(field: Float32Array, lattice: Lattice, length: number): void {
  // A binomial filter has a variance of half a point squared.
  const variance = (length / HALF_AT) ** 2;
  smoothed(field, lattice, 4, Math.max(1, Math.round(2 * variance)));
}

/** Points over which the hold fades out towards where the base sleeps. */
const FADE = 2;

/** 1 inside the tiles that a frame's velocity has, falling to 0 at their rim. */
function awakeIn(lattice: Lattice, parts: readonly BasePart[], voxelSize: number): Float32Array {
  const [nx, ny, nz] = lattice.size;
  const out = new Float32Array(nx * ny * nz);
  for (const { voxelSize: h, grids } of parts) {
    const ratio = h / voxelSize;
    const { origins } = grids.find((g) => g.name === 'vel') ?? { origins: new Int32Array(0) };
    for (let t = 0; t < origins.length; t += 3) {
      const low = [0, 1, 2].map((a) => Math.max(0, Math.floor((origins[t + a] ?? 0) * ratio) - (lattice.low[a] ?? 0))) as [
        number,
        number,
        number,
      ];
      const high = [0, 1, 2].map((a) =>
        Math.min(lattice.size[a] ?? 0, Math.ceil(((origins[t + a] ?? 0) + 8) * ratio) - (lattice.low[a] ?? 0)),
      );
      for (let k = low[2]; k < (high[2] ?? 0); k++)
        for (let j = low[1]; j < (high[1] ?? 0); j++) for (let i = low[0]; i < (high[0] ?? 0); i++) out[(k * ny + j) * nx + i] = 1;
    }
  }
  // Taken in by the fade and smoothed over it: nothing jumps at the rim.
  for (let n = 0; n < FADE; n++) {
    for (const stride of [1, nx, nx * ny]) {
      const was = out.slice();
      for (let at = 0; at < out.length; at++) if (was[at - stride] !== 1 || was[at + stride] !== 1) out[at] = 0;
    }
  }
  smoothed(out, lattice, 1, FADE);
  return out;
}
