import type { PlainBounds } from '#core/flow';
import { type KernelTeam, RECORD_WORDS, TILE } from '#core/grid';
import { type Lattice, type LatticeFrame, Room } from '../upscale';
import { type DetailBody, sizesOf } from './body';
import type { DetailFields } from './fields';
import { SHORTEST, bandNoise, octavesOf } from './noise';
import type { Places } from './places';

/** Of an octave, see addedPotential of assembly/upscale.ts. */
const OCTAVE_WORDS = 9;

/** The eddies that a detail pass adds, as a potential whose curl they are. */
export class Eddies {
  readonly #octavesAt: number;
  readonly #noiseAt: number;
  readonly #octaves: ReturnType<typeof octavesOf>;
  readonly #near: Room;

  constructor(
    private readonly team: KernelTeam,
    private readonly body: DetailBody,
    /** Fine voxels a base voxel. */
    private readonly per: number,
  ) {
    const { settings } = body;
    const { largest, smallest } = sizesOf(body);
    this.#octaves = settings.strength > 0 ? octavesOf(largest, smallest) : [];
    this.#octavesAt = team.allocate(Math.max(1, this.#octaves.length) * OCTAVE_WORDS * 4);
    const noise = this.#octaves.length > 0 ? bandNoise(settings.seed) : new Float32Array(4);
    this.#noiseAt = team.allocate(noise.byteLength);
    team.floats(this.#noiseAt, noise.length).set(noise);
    this.#near = new Room(team);
  }

  /** Potential of what is added, from the layers as they are. Returns about how fast the fastest of it is, m/s. */
  potential(
    weights: Float32Array,
    places: Places,
    lattice: Lattice,
    frame: LatticeFrame,
    bounds: PlainBounds,
    f: Pick<DetailFields, 'phi' | 'p' | 'e'>,
  ): number {
    const { team } = this;
    const level = bounds.hierarchy.finest;
    const { strength } = this.body.settings;
    const shares = places.shares;
    let most = 0;
    for (const w of weights) if (w > most) most = w;
    const rms = Math.sqrt(this.#octaves.reduce((sum, o) => sum + o.share ** 2, 0));
    places.weigh(weights);
    const octaves = team.floats(this.#octavesAt, Math.max(1, this.#octaves.length) * OCTAVE_WORDS);
    this.#octaves.forEach(({ longest, share }, o) => {
      // Noise points a base voxel: the octave's shortest wave is half of its longest.
      const scale = SHORTEST / (longest / 2);
      octaves[o * OCTAVE_WORDS] = scale;
      octaves[o * OCTAVE_WORDS + 1] = (strength * share * this.per) / scale;
      for (const a of [0, 1, 2] as const) {
        octaves[o * OCTAVE_WORDS + 2 + a] = places.shift(0, o, a);
        octaves[o * OCTAVE_WORDS + 5 + a] = places.shift(1, o, a);
      }
    });
    const near = this.#nearSolids(bounds);
    const [a, b] = places.layers;
    const args = [
      frame.frame,
      a.at,
      b.at,
      shares[0],
      shares[1],
      this.#noiseAt,
      this.#octavesAt,
      this.#octaves.length,
      ...lattice.low,
      near,
    ];
    team.launch('addedPotential', level.count, level.context, ...args, f.phi, f.p, f.e);
    return 3 * strength * most * rms;
  }

  /** One byte a tile: whether a solid is about. */
  #nearSolids({ hierarchy, geometry, window: w }: PlainBounds): number {
    const { team, body } = this;
    const level = hierarchy.finest;
    const room = this.#near;
    room.floats(Math.ceil(level.count / 4) + 1);
    const bytes = team.bytes(room.at, level.count);
    const walled = body.flow.solids.length > 0 || Object.values(body.flow.bounds.walls).includes('closed');
    bytes.fill(0);
    if (!walled) return room.at;
    const records = team.pointers(level.records, level.count * RECORD_WORDS);
    for (let t = 0; t < level.count; t++) {
      const r = t * RECORD_WORDS;
      const [x = 0, y = 0, z = 0] = [w.ox, w.oy, w.oz].map((o, a) => ((records[r + 1 + a] ?? 0) + o) / TILE);
      for (let n = 0; n < 27 && bytes[t] === 0; n++) {
        const tile = geometry.tile(0, x + (n % 3) - 1, y + (Math.floor(n / 3) % 3) - 1, z + Math.floor(n / 9) - 1);
        if (tile.cut !== 0 || tile.allSolid) bytes[t] = 1;
      }
    }
    return room.at;
  }
}
