import { BAND, type Band, FIELD_BYTES, bandBuffers, carryFields, followZero, unionBand } from './band';
import type { Pool } from './pool';

const STEPS = 7;

/** A signed distance around a surface, and what goes with it from band to band. */
export class Level {
  /** Fields that are kept beside the distance, by name: masks, the distance of walls. */
  readonly #beside = new Map<string, { pointer: number; readonly otherwise: number }>();

  constructor(
    readonly pool: Pool,
    public band: Band,
    /** Voxels, negative inside. */
    public field: number,
  ) {}

  get slots(): number {
    return this.band.slots;
  }

  values(): Float32Array {
    return this.pool.team.floats(this.field, this.slots * 512);
  }

  /** Room for another field of the same tiles. */
  room(): number {
    return this.pool.take(Math.max(1, this.slots) * FIELD_BYTES);
  }

  beside(name: string): number {
    return this.#beside.get(name)?.pointer ?? 0;
  }

  /** Keeps a field with the distance; where there was no tile it is `otherwise`. */
  keep(name: string, pointer: number, otherwise: number): void {
    this.pool.give(this.beside(name));
    this.#beside.set(name, { pointer, otherwise });
  }

  /** Goes over to another level where a mask that is kept with this one is 1, stays where it is 0; where this one had no tile, the other's is taken. */
  blend(other: Level, mask: string): void {
    const { pool } = this;
    const names = [...this.#beside];
    const band = unionBand(pool, this.band, other.band);
    const fields = carryFields(pool, this.band, band, [
      { pointer: this.field, otherwise: 'side' },
      ...names.map(([, { pointer, otherwise }]) => ({ pointer, otherwise })),
    ]);
    const [after = 0] = carryFields(pool, other.band, band, [{ pointer: other.field, otherwise: 'side' }]);
    pool.give(...bandBuffers(this.band), this.field, ...names.map(([, { pointer }]) => pointer));
    this.band = band;
    this.field = fields[0] ?? 0;
    names.forEach(([, entry], n) => {
      entry.pointer = fields[n + 1] ?? 0;
    });
    pool.team.launch('blendTiles', band.slots, this.field, after, this.beside(mask), this.field);
    pool.give(after);
  }

  drop(name: string): void {
    this.pool.give(this.beside(name));
    this.#beside.delete(name);
  }

  /** The same surface to be changed by itself. */
  copy(): Level {
    const { team } = this.pool;
    const { band } = this;
    const twin = (pointer: number, words: number): number => {
      const to = this.pool.take(Math.max(1, words) * 4);
      team.words(to, words).set(team.words(pointer, words));
      return to;
    };
    const table = band.across[0] * band.across[1] * band.across[2];
    const own: Band = {
      ...band,
      table: twin(band.table, table),
      records: twin(band.records, band.slots * 4),
      around: twin(band.around, band.slots * 27),
    };
    const made = new Level(this.pool, own, twin(this.field, band.slots * 512));
    for (const [name, { pointer, otherwise }] of this.#beside) made.keep(name, twin(pointer, band.slots * 512), otherwise);
    return made;
  }

  /** Distance from the zero line again, and tiles where it runs now. `moved`: all that happened is that it was moved by so many voxels. */
  redistance(moved = 0): void {
    const { pool } = this;
    const { team } = pool;
    const names = [...this.#beside];
    const followed = followZero(pool, this.band, this.field, [
      { pointer: this.field, otherwise: 'side' },
      ...names.map(([, { pointer, otherwise }]) => ({ pointer, otherwise })),
    ]);
    this.band = followed.band;
    const before = followed.fields[0] ?? 0;
    names.forEach(([, entry], n) => {
      entry.pointer = followed.fields[n + 1] ?? 0;
    });
    const { slots, around } = this.band;
    let [to, spare] = [this.room(), this.room()];
    const near = pool.take(Math.max(1, slots) * 512);
    const scratch = pool.take(team.threads * 16384);
    team.launch('startDistance', slots, around, before, to, near, BAND, moved, scratch);
    // A step reaches a voxel along each axis, from beside the zero line: a plane along the diagonal takes seven to the band's end.
    for (let step = 0; step < STEPS; step++) {
      team.launch('stepDistance', slots, around, to, spare, near, BAND, scratch);
      [to, spare] = [spare, to];
    }
    team.launch('settleDistance', slots, before, to, BAND, moved);
    this.field = to;
    pool.give(before, spare, near, scratch);
  }

  /** Moves the surface outwards by voxels (negative: inwards), in steps that the band has room for. */
  offset(voxels: number): void {
    const most = BAND - 1.5;
    const steps = Math.max(1, Math.ceil(Math.abs(voxels) / most));
    for (let n = 0; n < steps && this.slots > 0; n++) {
      this.pool.team.launch('shiftTiles', this.slots, this.field, -voxels / steps, BAND);
      this.redistance(voxels / steps);
    }
  }

  /** Voxels that lie inside when the surface is moved outwards by `shift` voxels (where a mask that is kept is 1), of those that walls leave open. */
  volume(shift = 0, mask: string | null = null): number {
    const { team } = this.pool;
    const sums = this.pool.take(Math.max(1, this.slots) * 8);
    team.launch('volumeTiles', this.slots, this.field, this.beside('walls'), mask === null ? 0 : this.beside(mask), shift, sums);
    let sum = this.band.inside * 512;
    for (const v of team.doubles(sums, this.slots)) sum += v;
    this.pool.give(sums);
    return sum;
  }

  /** Values (voxels) at places of 16 bytes each in the team's memory, in units of `scale` voxels. */
  sample(places: number, count: number, scale: number): Float32Array {
    const { team } = this.pool;
    const { table, origin, across } = this.band;
    const out = this.pool.take(Math.max(1, count) * 4);
    team.launch('sampleTiles', Math.ceil(count / 256), this.field, table, ...origin, ...across, BAND, places, count, scale, out);
    const values = team.floats(out, count).slice();
    this.pool.give(out);
    return values;
  }

  free(): void {
    this.pool.give(this.field, ...bandBuffers(this.band), ...[...this.#beside.values()].map((b) => b.pointer));
  }
}
