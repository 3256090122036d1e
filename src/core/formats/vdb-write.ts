import { zlibSync } from 'fflate';
import type { TileGrid } from '#core/grid';
import { bloscCompress } from './blosc';
import { ByteWriter, utf8 } from './byte-writer';
import { halfOfBits, roundToHalf } from './half';
import {
  COMPRESS_BLOSC,
  COMPRESS_MASK,
  COMPRESS_ZIP,
  FILE_VERSION,
  INNER4,
  INNER5,
  LEAF,
  MAGIC,
  slot4,
  slot5,
  type VdbClass,
  type VdbTransform,
} from './vdb-layout';

export interface VdbWriteOptions {
  readonly precision: 'half' | 'full';
  readonly compression: 'blosc' | 'zip' | 'none';
  /** 36 characters; passed in, as the core has no randomness. */
  readonly uuid: string;
  readonly creator: string;
}

export interface VdbGridInput {
  readonly grid: TileGrid;
  readonly class: VdbClass;
  readonly transform: VdbTransform;
  /** Velocities: `contravariant relative`. */
  readonly vectorType?: string;
}

interface Leaf {
  readonly tile: number;
  readonly slot: number;
}
interface Inner4 {
  readonly slot: number;
  readonly leaves: Leaf[];
}
interface Root5 {
  readonly origin: readonly [number, number, number];
  readonly nodes: Inner4[];
}

/** A .vdb file: each grid's tiles with at least one active voxel become leaves. */
export function writeVdb(grids: readonly VdbGridInput[], options: VdbWriteOptions): Uint8Array<ArrayBuffer> {
  const w = new ByteWriter();
  const patches: { at: number; value: number }[] = [];
  w.i64(MAGIC);
  w.u32(FILE_VERSION);
  w.u32(10);
  w.u32(0);
  w.u8(1);
  w.bytes(utf8(options.uuid.padEnd(36).slice(0, 36)));
  w.u32(0);
  w.i32(grids.length);
  for (const input of grids) writeGrid(w, input, options, patches);
  return w.finish(patches);
}

function writeGrid(
  w: ByteWriter,
  { grid, class: kind, transform, vectorType }: VdbGridInput,
  options: VdbWriteOptions,
  patches: { at: number; value: number }[],
): void {
  const half = options.precision === 'half';
  const roots = treeOf(grid);
  w.text(grid.name);
  w.text(`Tree_${grid.components === 3 ? 'vec3s' : 'float'}_5_4_3${half ? '_HalfFloat' : ''}`);
  w.text('');
  const positions = w.position;
  for (let n = 0; n < 3; n++) w.i64(0);
  patches.push({ at: positions, value: w.position });
  const flags = COMPRESS_MASK | (options.compression === 'blosc' ? COMPRESS_BLOSC : options.compression === 'zip' ? COMPRESS_ZIP : 0);
  w.u32(flags);
  writeMetadata(w, grid, kind, half, options, vectorType);
  writeTransform(w, transform);
  const buffers = new BufferWriter(w, grid, flags, half);
  writeTopology(w, grid, roots, half, buffers);
  patches.push({ at: positions + 8, value: w.position });
  for (const root of roots) {
    for (const node of root.nodes) {
      for (const leaf of node.leaves) {
        w.bytes(grid.masks.subarray(leaf.tile * 64, leaf.tile * 64 + 64));
        buffers.leaf(leaf.tile);
      }
    }
  }
  patches.push({ at: positions + 16, value: w.position });
}

/** Roots sorted by x, y, z; children in ascending slot order. */
function treeOf(grid: TileGrid): Root5[] {
  const roots = new Map<string, { origin: readonly [number, number, number]; nodes: Map<number, Inner4> }>();
  for (let t = 0; t < grid.origins.length / 3; t++) {
    let any = 0;
    for (let n = t * 64; n < t * 64 + 64; n++) any |= grid.masks[n] ?? 0;
    if (any === 0) continue;
    const [x, y, z] = [grid.origins[3 * t] ?? 0, grid.origins[3 * t + 1] ?? 0, grid.origins[3 * t + 2] ?? 0];
    const origin = [x & ~4095, y & ~4095, z & ~4095] as const;
    const key = origin.join();
    const root = roots.get(key) ?? { origin, nodes: new Map<number, Inner4>() };
    roots.set(key, root);
    const s5 = slot5(x, y, z);
    const node = root.nodes.get(s5) ?? { slot: s5, leaves: [] };
    root.nodes.set(s5, node);
    node.leaves.push({ tile: t, slot: slot4(x, y, z) });
  }
  return [...roots.values()]
    .sort((a, b) => a.origin[0] - b.origin[0] || a.origin[1] - b.origin[1] || a.origin[2] - b.origin[2])
    .map(({ origin, nodes }) => ({
      origin,
      nodes: [...nodes.values()]
        .sort((a, b) => a.slot - b.slot)
        .map((n) => ({ slot: n.slot, leaves: n.leaves.sort((a, b) => a.slot - b.slot) })),
    }));
}

function writeMetadata(
  w: ByteWriter,
  grid: TileGrid,
  kind: VdbClass,
  half: boolean,
  options: VdbWriteOptions,
  vectorType: string | undefined,
): void {
  const { min, max, count } = activeBox(grid);
  const compression = { blosc: 'blosc + active values', zip: 'zip + active values', none: 'active values' };
  const entries: [string, string, (b: ByteWriter) => void][] = [];
  const string = (name: string, value: string): void => {
    entries.push([
      name,
      'string',
      (b) => {
        b.bytes(utf8(value));
      },
    ]);
  };
  const box = (name: string, v: readonly number[]): void => {
    entries.push([
      name,
      'vec3i',
      (b) => {
        for (const c of v) b.i32(c);
      },
    ]);
  };
  if (kind !== 'unknown') string('class', kind);
  string('creator', options.creator);
  box('file_bbox_max', max);
  box('file_bbox_min', min);
  string('file_compression', compression[options.compression]);
  entries.push([
    'file_voxel_count',
    'int64',
    (b) => {
      b.i64(count);
    },
  ]);
  if (half)
    entries.push([
      'is_saved_as_half_float',
      'bool',
      (b) => {
        b.u8(1);
      },
    ]);
  string('name', grid.name);
  if (vectorType) string('vector_type', vectorType);
  w.u32(entries.length);
  for (const [name, type, write] of entries) {
    const value = new ByteWriter();
    write(value);
    const bytes = value.finish();
    w.text(name);
    w.text(type);
    w.u32(bytes.length);
    w.bytes(bytes);
  }
}

/** Set bits of a byte. */
const ones = Uint8Array.from({ length: 256 }, (_, n) => n.toString(2).replaceAll('0', '').length);

/** Grows one side of a box by the set bits of a byte, bit 0 lying at `origin`. */
function grow(min: number[], max: number[], axis: 0 | 1 | 2, origin: number, bits: number): void {
  min[axis] = Math.min(min[axis] ?? 0, origin + 31 - Math.clz32(bits & -bits));
  max[axis] = Math.max(max[axis] ?? 0, origin + 31 - Math.clz32(bits));
}

/** Inclusive box and number of active voxels. */
export function activeBox(grid: TileGrid): { min: [number, number, number]; max: [number, number, number]; count: number } {
  const min: [number, number, number] = [2147483647, 2147483647, 2147483647];
  const max: [number, number, number] = [-2147483648, -2147483648, -2147483648];
  let count = 0;
  for (let t = 0; t < grid.origins.length / 3; t++) {
    // A mask has a byte for each (x, y) of its tile, with a bit for each z.
    let [xs, ys, zs] = [0, 0, 0];
    for (let n = 0; n < 64; n++) {
      const bits = grid.masks[64 * t + n] ?? 0;
      if (bits === 0) continue;
      xs |= 1 << (n >> 3);
      ys |= 1 << (n & 7);
      zs |= bits;
      count += ones[bits] ?? 0;
    }
    if (zs === 0) continue;
    grow(min, max, 0, grid.origins[3 * t] ?? 0, xs);
    grow(min, max, 1, grid.origins[3 * t + 1] ?? 0, ys);
    grow(min, max, 2, grid.origins[3 * t + 2] ?? 0, zs);
  }
  return { min, max, count };
}

function writeTransform(w: ByteWriter, { scale, translation }: VdbTransform): void {
  const uniform = scale[0] === scale[1] && scale[1] === scale[2];
  w.text(uniform ? 'UniformScaleTranslateMap' : 'ScaleTranslateMap');
  const lists = [
    translation,
    scale,
    scale.map(Math.abs),
    scale.map((s) => 1 / s),
    scale.map((s) => 1 / (s * s)),
    scale.map((s) => 0.5 / s),
  ];
  for (const list of lists) for (const v of list) w.f64(v);
}

function writeTopology(w: ByteWriter, grid: TileGrid, roots: readonly Root5[], half: boolean, buffers: BufferWriter): void {
  w.i32(1);
  for (const b of grid.background) w.f32(half ? roundToHalf(b) : b);
  w.u32(0);
  w.u32(roots.length);
  for (const root of roots) {
    for (const c of root.origin) w.i32(c);
    writeInner(
      w,
      INNER5,
      root.nodes.map((n) => n.slot),
      buffers,
    );
    for (const node of root.nodes) {
      writeInner(
        w,
        INNER4,
        node.leaves.map((l) => l.slot),
        buffers,
      );
      for (const leaf of node.leaves) w.bytes(grid.masks.subarray(leaf.tile * 64, leaf.tile * 64 + 64));
    }
  }
}

/** Child mask, empty value mask, and a value buffer in which nothing is active and all else is background (or 0 in child slots). */
function writeInner(w: ByteWriter, slots: number, children: readonly number[], buffers: BufferWriter): void {
  const mask = new Uint8Array(slots / 8);
  for (const s of children) mask[s >> 3] = (mask[s >> 3] ?? 0) | (1 << (s & 7));
  w.bytes(mask);
  w.bytes(new Uint8Array(slots / 8));
  buffers.empty();
}

/** Value buffers: code, data framing. Inactive voxels always hold the background here, so the code is always 0. */
class BufferWriter {
  readonly #elementSize: number;
  /** The grid's values as words, and one leaf's worth of what is written. Typed arrays are little-endian wherever WebAssembly runs, as the file is. */
  readonly #bits: Uint32Array;
  readonly #words: Uint32Array;
  readonly #halves: Uint16Array;
  readonly #wordBytes: Uint8Array;
  readonly #halfBytes: Uint8Array;
  constructor(
    private readonly w: ByteWriter,
    private readonly grid: TileGrid,
    private readonly flags: number,
    private readonly half: boolean,
  ) {
    this.#elementSize = (half ? 2 : 4) * grid.components;
    const { buffer, byteOffset, length } = grid.values;
    this.#bits = new Uint32Array(buffer, byteOffset, length);
    this.#words = new Uint32Array(half ? 0 : LEAF * grid.components);
    this.#halves = new Uint16Array(half ? LEAF * grid.components : 0);
    this.#wordBytes = new Uint8Array(this.#words.buffer);
    this.#halfBytes = new Uint8Array(this.#halves.buffer);
  }

  empty(): void {
    this.w.u8(0);
    this.#frame(new Uint8Array(0));
  }

  leaf(tile: number): void {
    const { grid, half } = this;
    const { components, masks } = grid;
    let at = 0;
    for (let m = 0; m < 64; m++) {
      const bits = masks[tile * 64 + m] ?? 0;
      if (bits === 0) continue;
      const from = (tile * LEAF + 8 * m) * components;
      for (let b = 0; b < 8; b++) {
        if ((bits & (1 << b)) === 0) continue;
        const end = from + (b + 1) * components;
        if (half) for (let n = end - components; n < end; n++) this.#halves[at++] = halfOfBits(this.#bits[n] ?? 0);
        else for (let n = end - components; n < end; n++) this.#words[at++] = this.#bits[n] ?? 0;
      }
    }
    this.w.u8(0);
    this.#frame((half ? this.#halfBytes : this.#wordBytes).subarray(0, at * (half ? 2 : 4)));
  }

  #frame(data: Uint8Array): void {
    const { w, flags } = this;
    // With half storage and no values nothing at all is written; with full floats a length of 0.
    if (data.length === 0) {
      if (!this.half && flags & (COMPRESS_BLOSC | COMPRESS_ZIP)) w.i64(0);
      return;
    }
    if ((flags & (COMPRESS_BLOSC | COMPRESS_ZIP)) === 0) {
      w.bytes(data);
      return;
    }
    const packed = flags & COMPRESS_BLOSC ? bloscCompress(data, this.#elementSize) : zlibSync(data, { level: 4 });
    if (packed && packed.length < data.length) {
      w.i64(packed.length);
      w.bytes(packed);
    } else {
      w.i64(-data.length);
      w.bytes(data);
    }
  }
}
