import type { KernelTeam } from '#core/grid';

/**
 * Particles in a team's memory; `count` of the room is used. Places: x, y, z, age; motions: vx, vy, vz, age limit; four floats each. Metres, m/s and
 * seconds of the computation. Ids are in the order of birth.
 */
export class Cloud {
  count = 0;
  #room = 0;
  /** Where the columns begin in the team's memory. */
  placesAt = 0;
  motionsAt = 0;
  places = new Float32Array(0);
  motions = new Float32Array(0);
  ids = new Uint32Array(0);

  /** Bytes of a particle. */
  static readonly BYTES = 36;

  constructor(private readonly team: KernelTeam) {}

  get bytes(): number {
    return this.#room * Cloud.BYTES;
  }

  /** Room for so many. What was there before is left behind in the memory: it grows by half, so that never more than twice as much lies idle. */
  reserve(count: number): void {
    if (count <= this.#room) return;
    this.#room = Math.max(4096, Math.ceil(count * 1.5));
    const column = (from: Float32Array): { at: number; view: Float32Array<ArrayBuffer> } => {
      const at = this.team.allocate(16 * this.#room);
      const view = this.team.floats(at, 4 * this.#room) as Float32Array<ArrayBuffer>;
      view.set(from);
      return { at, view };
    };
    const [places, motions] = [column(this.places), column(this.motions)];
    [this.placesAt, this.places] = [places.at, places.view];
    [this.motionsAt, this.motions] = [motions.at, motions.view];
    const ids = new Uint32Array(this.#room);
    ids.set(this.ids);
    this.ids = ids;
  }

  /** Takes those out that have reached their age limit; the others keep their order. Returns how many went. */
  bury(): number {
    const { places, motions, ids, count } = this;
    let to = 0;
    // Those that stay are moved run by run: one at a time it took a fifth of a frame of two million.
    for (let n = 0; n < count;) {
      while (n < count && (places[4 * n + 3] as number) >= (motions[4 * n + 3] as number)) n++;
      const from = n;
      while (n < count && !((places[4 * n + 3] as number) >= (motions[4 * n + 3] as number))) n++;
      if (to !== from) {
        places.copyWithin(4 * to, 4 * from, 4 * n);
        motions.copyWithin(4 * to, 4 * from, 4 * n);
        ids.copyWithin(to, from, n);
      }
      to += n - from;
    }
    const gone = this.count - to;
    this.count = to;
    return gone;
  }

  /** All of it as bytes, to go on from: count and next id, then the columns. */
  save(nextId: number): Uint8Array<ArrayBuffer> {
    const n = this.count;
    const out = new Uint8Array(8 + n * Cloud.BYTES);
    const head = new DataView(out.buffer);
    head.setUint32(0, n, true);
    head.setUint32(4, nextId, true);
    let at = 8;
    for (const column of [this.places.subarray(0, 4 * n), this.motions.subarray(0, 4 * n), this.ids.subarray(0, n)]) {
      out.set(new Uint8Array(column.buffer, column.byteOffset, column.byteLength), at);
      at += column.byteLength;
    }
    return out;
  }

  /** Takes over what `save` gave; returns the next id, or null when the bytes are not that. */
  load(bytes: Uint8Array): number | null {
    if (bytes.length < 8) return null;
    const head = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    const n = head.getUint32(0, true);
    if (bytes.length !== 8 + n * Cloud.BYTES) return null;
    this.reserve(n);
    this.count = n;
    // Copied: the columns may lie at any place of the bytes.
    const column = (from: number, length: number): ArrayBuffer => bytes.slice(from, from + 4 * length).buffer;
    this.places.set(new Float32Array(column(8, 4 * n)));
    this.motions.set(new Float32Array(column(8 + 16 * n, 4 * n)));
    this.ids.set(new Uint32Array(column(8 + 32 * n, n)));
    return head.getUint32(4, true);
  }
}
