import { RuddleError } from '#core/errors';
import { type KernelTeam, TILE, type Window, indexOf, windowOf } from '#core/grid';
import type { DebtState } from './debt';
import type { Account } from './emission';
import type { LiquidGrid } from './grid';
import type { LiquidOptions } from './options';
import type { Particles } from './particles';
import type { Measured } from './step';

/**
 * The state of a liquid run between two frames: a run that begins with it computes the frames after it to the bit as if it had never been interrupted.
 *
 * Layout: "RLST", the header's length (u32), the header as JSON, then little-endian and without padding: the tiles that are awake (i32, world tiles), the pressure
 * in each of them (512 f32, x fastest), and of the particles places, motions, marks and, if they have them, affine velocities.
 */
export interface LiquidHeader {
  readonly version: string;
  readonly voxelSize: number;
  readonly frame: number;
  readonly window: readonly [number, number, number, number, number, number];
  readonly lastStep: number;
  readonly lastKick: number;
  readonly farthest: number;
  readonly salt: number;
  readonly filled: readonly number[];
  /** By source; null: it never emitted. */
  readonly accounts: readonly (Account | null)[];
  /** Whether the liquid had no surface in the last substep; null: none was made. */
  readonly closed: boolean | null;
  readonly debt: DebtState;
  readonly expected: number;
  readonly surface: number;
  readonly liquidCells: number;
  readonly measured: Measured;
  readonly heightsBefore: number;
  readonly born: number;
  readonly count: number;
  readonly tiles: number;
  readonly affine: boolean;
}

const MAGIC = 0x54534c52;
const HEAD = 8;

const broken = (why: string): RuddleError<'file-invalid'> =>
  new RuddleError('file-invalid', `A run's state cannot be used: ${why}.`, { file: 'state', reason: why });

type Told = Omit<LiquidHeader, 'window' | 'count' | 'tiles' | 'affine' | 'born' | 'voxelSize'>;

export function writeSnapshot(
  told: Told,
  team: KernelTeam,
  options: LiquidOptions,
  grid: LiquidGrid,
  particles: Particles,
): Uint8Array<ArrayBuffer> {
  const { window: w, tiles } = grid;
  const header: LiquidHeader = {
    ...told,
    voxelSize: options.voxelSize,
    window: [w.ox, w.oy, w.oz, w.nx, w.ny, w.nz],
    born: particles.born,
    count: particles.count,
    tiles: tiles.length,
    affine: particles.affine !== 0,
  };
  const head = Uint8Array.from(JSON.stringify(header), (c) => c.charCodeAt(0));
  const pressure = new Float32Array((tiles.length / 3) * 512);
  eachRow(team, grid, tiles, (field, o, n) => {
    pressure.set(field.subarray(o, o + TILE), n);
  });
  const arrays = [
    team.bytes(particles.places, particles.count * 16),
    team.bytes(particles.motions, particles.count * 16),
    team.bytes(particles.marks, particles.count * 16),
    ...(header.affine ? [team.bytes(particles.affine, particles.count * 48)] : []),
  ];
  const parts = [head, new Uint8Array(tiles.buffer, tiles.byteOffset, tiles.byteLength), new Uint8Array(pressure.buffer), ...arrays];
  const out = new Uint8Array(parts.reduce((n, p) => n + p.length, HEAD));
  new DataView(out.buffer).setUint32(0, MAGIC, true);
  new DataView(out.buffer).setUint32(4, head.length, true);
  let at = HEAD;
  for (const p of parts) {
    out.set(p, at);
    at += p.length;
  }
  return out;
}

/** Rows of the pressure in some tiles: index in the field, and in an array of 512 a tile. */
function eachRow(team: KernelTeam, grid: LiquidGrid, tiles: Int32Array, visit: (field: Float32Array, o: number, n: number) => void): void {
  const { window: w } = grid;
  const field = team.floats(grid.fields.x, grid.size);
  const { sx, sp } = grid.level;
  for (let t = 0; t < tiles.length; t += 3) {
    const [tx, ty, tz] = [tiles[t] ?? 0, tiles[t + 1] ?? 0, tiles[t + 2] ?? 0];
    const base = indexOf(w.nx, w.ny, tx * TILE - w.ox, ty * TILE - w.oy, tz * TILE - w.oz);
    for (let row = 0; row < 64; row++) visit(field, base + (row >> 3) * sp + (row & 7) * sx, (t / 3) * 512 + row * TILE);
  }
}

export interface LiquidSnapshot {
  readonly header: LiquidHeader;
  /** Puts window, pressure and particles where they were. */
  readonly restore: (team: KernelTeam, grid: LiquidGrid, particles: Particles) => void;
}

/** Reads a state that a run of the same options wrote. Throws `file-invalid` for any other. */
export function readSnapshot(bytes: Uint8Array, version: string, options: LiquidOptions): LiquidSnapshot {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < HEAD || view.getUint32(0, true) !== MAGIC) throw broken('it is none');
  let at = HEAD + view.getUint32(4, true);
  let header: LiquidHeader;
  try {
    header = JSON.parse(String.fromCharCode(...bytes.subarray(HEAD, at))) as LiquidHeader;
  } catch {
    throw broken('its header cannot be read');
  }
  if (header.version !== version) throw broken(`it is of ${header.version}, this is ${version}`);
  if (header.voxelSize !== options.voxelSize || header.affine !== (options.matter.transfer === 'apic'))
    throw broken('it is of other settings');
  const take = (length: number): Uint8Array<ArrayBuffer> => {
    const part = bytes.slice(at, at + length);
    if (part.length !== length) throw broken('it ends early');
    at += length;
    return part;
  };
  const tiles = new Int32Array(take(header.tiles * 4).buffer);
  const pressure = new Float32Array(take((header.tiles / 3) * 512 * 4).buffer);
  const [places, motions, marks] = [take(header.count * 16), take(header.count * 16), take(header.count * 16)];
  const affine = header.affine ? take(header.count * 48) : null;
  if (at !== bytes.length) throw broken('it is longer than it says');
  return {
    header,
    restore: (team, grid, particles) => {
      grid.adopt(windowOfHeader(header), tiles);
      eachRow(team, grid, tiles, (field, o, n) => {
        field.set(pressure.subarray(n, n + TILE), o);
      });
      particles.reserve(header.count);
      particles.count = header.count;
      particles.born = header.born;
      team.bytes(particles.places, places.length).set(places);
      team.bytes(particles.motions, motions.length).set(motions);
      team.bytes(particles.marks, marks.length).set(marks);
      if (affine) team.bytes(particles.affine, affine.length).set(affine);
    },
  };
}

const windowOfHeader = ({ window: [ox, oy, oz, nx, ny, nz] }: LiquidHeader): Window => windowOf([ox, oy, oz], [ox + nx, oy + ny, oz + nz]);
