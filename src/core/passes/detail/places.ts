import type { KernelTeam } from '#core/grid';
import { hash3 } from '#core/math';
import { type Lattice, Room, pointsOf, relaid } from '../upscale';
import { NOISE } from './noise';

/** Renewed no faster than once in so many frames: faster, the pattern would flicker. */
const FEWEST_FRAMES = 8;
/** Points that a way back may cross at once. */
const REACH = 1;

/** What of the coordinates is kept from frame to frame, beside the layers. */
export interface Phases {
  /** Of the first layer's life, 0 to 1; the second layer's is half a life on. */
  phase: number;
  /** Times that each layer was renewed: gives its pattern. */
  renewed: [number, number];
  /** Mean log of the stretch of each layer at the last frame. */
  stretch: [number, number];
}

/**
 * Texture coordinates: for each point, how far what is now there has come since the coordinates were last renewed (in points, 3 floats, and a fourth that the strength is
 * put into). Two layers go half a life apart; each counts by the sine of its life, so that it is nothing when it is renewed, and both together always count
 * the same in energy. The life follows the measured stretch: it ends when the mean stretch reaches its limit.
 *
 * Not renewed point by point where they are stretched (Kim et al. 2008): the potential would jump between neighbours, and its curl with it.
 */
export class Places {
  readonly layers: readonly [Room, Room];
  readonly #spare: Room;
  phases: Phases = { phase: 0, renewed: [0, 0], stretch: [0, 0] };
  /** Kept here between frames: 4 floats a point. */
  #kept: [Float32Array, Float32Array] = [new Float32Array(0), new Float32Array(0)];
  #lattice: Lattice | null = null;

  constructor(
    private readonly team: KernelTeam,
    private readonly seed: number,
  ) {
    this.layers = [new Room(team), new Room(team)];
    this.#spare = new Room(team);
  }

  /** Fresh coordinates over a lattice, or those of a state. */
  begin(lattice: Lattice, phases: Phases | null, kept: readonly [Float32Array, Float32Array] | null): void {
    if (phases) this.phases = phases;
    this.#lattice = lattice;
    this.#kept = kept ? [kept[0], kept[1]] : [new Float32Array(4 * pointsOf(lattice)), new Float32Array(4 * pointsOf(lattice))];
    this.layers.forEach((room, n) => room.floats(4 * pointsOf(lattice)).set(this.#kept[n as 0 | 1]));
  }

  /** Of the two layers, in energy one. */
  get shares(): readonly [number, number] {
    const a = Math.PI * this.phases.phase;
    return [Math.abs(Math.sin(a)), Math.abs(Math.cos(a))];
  }

  /** Where a layer's noise lies, noise points: another place after each renewal. */
  shift(layer: 0 | 1, octave: number, axis: 0 | 1 | 2): number {
    return (hash3(this.phases.renewed[layer] * 2 + layer, octave, axis, this.seed) % (NOISE * 256)) / 256;
  }

  /** Carries both layers through a frame by the velocity in `velocityAt` (m/s, 4 floats a point), on a lattice that may be another. */
  carry(lattice: Lattice, frame: number, velocityAt: number, fastest: number, voxelsPerMetre: number, seconds: number): void {
    const points = pointsOf(lattice);
    const old = this.#lattice ?? lattice;
    const steps = Math.max(1, Math.ceil((fastest * seconds * voxelsPerMetre) / REACH));
    const spare = this.#spare;
    this.layers.forEach((room, n) => {
      room.floats(4 * points).set(relaid(this.#kept[n as 0 | 1], old, lattice, 4, [0, 0, 0, 0]));
      spare.floats(4 * points);
      let [from, to] = [room.at, spare.at];
      for (let s = 0; s < steps; s++) {
        this.team.launch('carryPlaces', lattice.size[2], frame, velocityAt, from, to, (seconds * voxelsPerMetre) / steps);
        [from, to] = [to, from];
      }
      if (from !== room.at) room.floats(4 * points).set(this.team.floats(from, 4 * points));
    });
    this.#lattice = lattice;
  }

  /** After a frame: the life goes on as the stretch has grown, and what has come to its end is renewed. Returns the larger of the mean stretches. */
  age(strength: Float32Array, limit: number, seconds: number, longest: number | null): number {
    const lattice = this.#lattice as Lattice;
    const points = pointsOf(lattice);
    const was = this.phases.stretch;
    const now = this.layers.map((room) => meanStretch(room.floats(4 * points), lattice, strength)) as [number, number];
    const { phase } = this.phases;
    const life = (layer: 0 | 1): number => (phase + layer / 2) % 1;
    // What is left of a life goes as what is left of its stretch; of the layer that is in the greater hurry.
    let step = Math.max(
      ...([0, 1] as const).map((layer) => {
        const grown = Math.max(0, now[layer] - was[layer]);
        const left = Math.log(limit) - was[layer];
        return grown <= 0 ? 0 : left <= grown ? 1 : (1 - life(layer)) * (grown / left);
      }),
    );
    if (longest !== null) step = Math.max(step, seconds / longest);
    step = Math.min(step, 1 / FEWEST_FRAMES);
    const renewed: [number, number] = [...this.phases.renewed];
    ([0, 1] as const).forEach((layer) => {
      if (life(layer) + step < 1) return;
      renewed[layer]++;
      this.layers[layer].floats(4 * points).fill(0);
      now[layer] = 0;
    });
    this.phases = { phase: (phase + step) % 1, renewed, stretch: now };
    this.#kept = this.layers.map((room) => room.floats(4 * points).slice()) as [Float32Array, Float32Array];
    return Math.exp(Math.max(...now));
  }

  /** Puts the strength of what is added beside the coordinates. */
  weigh(strength: Float32Array): void {
    for (const room of this.layers) {
      const field = room.floats(4 * strength.length);
      for (let n = 0; n < strength.length; n++) field[4 * n + 3] = strength[n] as number;
    }
  }

  /** For a state: coordinates after the last frame. */
  get kept(): { readonly lattice: Lattice; readonly layers: readonly [Float32Array, Float32Array] } {
    return { lattice: this.#lattice as Lattice, layers: this.#kept };
  }
}

/** Most points that are looked at. */
const LOOKS = 60_000;

/**
 * Mean of the log of the stretch, weighted with the energy of what is added: of the largest factor by which the coordinates are drawn apart or pressed together
 * in any direction.
 */
export function meanStretch(field: Float32Array, { size }: Lattice, strength: Float32Array): number {
  const [nx, ny, nz] = size;
  const every = Math.max(1, Math.ceil((nx * ny * nz) / LOOKS));
  const strides = [4, 4 * nx, 4 * nx * ny] as const;
  let [sum, weight] = [0, 0];
  let count = 0;
  const g = new Float64Array(9);
  for (let k = 1; k < nz - 1; k++) {
    for (let j = 1; j < ny - 1; j++) {
      for (let i = 1; i < nx - 1; i++) {
        const n = (k * ny + j) * nx + i;
        const w = (strength[n] ?? 0) ** 2;
        if (w === 0 || count++ % every !== 0) continue;
        for (let a = 0; a < 3; a++) {
          for (let b = 0; b < 3; b++) {
            const s = strides[b as 0 | 1 | 2];
            g[3 * a + b] = 0.5 * ((field[4 * n + a + s] ?? 0) - (field[4 * n + a - s] ?? 0)) + (a === b ? 1 : 0);
          }
        }
        sum += w * logStretch(g);
        weight += w;
      }
    }
  }
  return weight > 0 ? sum / weight : 0;
}

/** Log of the largest of a matrix' singular values and their inverses. */
export function logStretch(g: Float64Array): number {
  const dot = (a: number, b: number): number =>
    (g[a] ?? 0) * (g[b] ?? 0) + (g[a + 3] ?? 0) * (g[b + 3] ?? 0) + (g[a + 6] ?? 0) * (g[b + 6] ?? 0);
  const [xx, yy, zz, xy, xz, yz] = [dot(0, 0), dot(1, 1), dot(2, 2), dot(0, 1), dot(0, 2), dot(1, 2)];
  // Eigenvalues of the symmetric product (Smith 1961).
  const mean = (xx + yy + zz) / 3;
  const spread = Math.sqrt(((xx - mean) ** 2 + (yy - mean) ** 2 + (zz - mean) ** 2 + 2 * (xy * xy + xz * xz + yz * yz)) / 6);
  if (spread < 1e-9 * mean) return 0.5 * Math.abs(Math.log(mean));
  const [a, b, c] = [(xx - mean) / spread, (yy - mean) / spread, (zz - mean) / spread];
  const [d, e, f] = [xy / spread, xz / spread, yz / spread];
  const half = (a * (b * c - f * f) - d * (d * c - f * e) + e * (d * f - b * e)) / 2;
  const angle = Math.acos(Math.min(1, Math.max(-1, half))) / 3;
  const most = mean + 2 * spread * Math.cos(angle);
  const least = Math.max(1e-12, mean + 2 * spread * Math.cos(angle + (2 * Math.PI) / 3));
  return 0.5 * Math.max(Math.log(most), -Math.log(least));
}
