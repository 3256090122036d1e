import { unzlibSync } from 'fflate';
import { RuddleError } from '#core/errors';
import type { TileGrid } from '#core/grid';
import { bloscDecompress } from './blosc';
import { halfTable } from './half';
import { COMPRESS_BLOSC, COMPRESS_MASK, COMPRESS_ZIP, INNER4, INNER5, LEAF, MAGIC, OLDEST_VERSION, type VdbTransform } from './vdb-layout';

export type MetaValue = string | number | boolean | readonly number[];

export interface VdbGrid {
  readonly name: string;
  readonly type: string;
  readonly half: boolean;
  readonly metadata: Readonly<Record<string, MetaValue>>;
  /** null when the map is not a scale and a translation. */
  readonly transform: VdbTransform | null;
  readonly mapType: string;
  /** Leaves only; null for grid types that are not read (their descriptor and metadata are). */
  readonly tiles: TileGrid | null;
  /** Active tiles of inner nodes and of the root: cubes of one value. `edge`: voxels a side. */
  readonly constantTiles: readonly ConstantTile[];
}

export interface ConstantTile {
  readonly origin: readonly [number, number, number];
  readonly edge: number;
  readonly value: readonly number[];
}

export interface VdbFile {
  readonly version: number;
  readonly library: readonly [number, number];
  readonly grids: readonly VdbGrid[];
}

const decode = (bytes: Uint8Array): string => {
  let text = '';
  for (let n = 0; n < bytes.length; n++) {
    const b = bytes[n] ?? 0;
    if (b < 0x80) text += String.fromCharCode(b);
    else {
      const more = b >= 0xf0 ? 3 : b >= 0xe0 ? 2 : 1;
      let p = b & (0x3f >> more);
      for (let m = 0; m < more; m++) p = (p << 6) | ((bytes[++n] ?? 0) & 63);
      text += String.fromCodePoint(Math.min(p, 0x10ffff));
    }
  }
  return text;
};

/** Reads with every length checked against the rest of the file. */
class Reader {
  readonly #view: DataView;
  at = 0;
  constructor(
    readonly bytes: Uint8Array,
    private readonly file: string,
  ) {
    this.#view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }
  fail(reason: string): never {
    throw new RuddleError('file-invalid', `${this.file} is not a .vdb file that can be read: ${reason}.`, { file: this.file, reason });
  }
  #take(n: number): number {
    if (!(n >= 0) || this.at + n > this.bytes.length) this.fail(`it ends too early, at byte ${String(this.at)}`);
    const at = this.at;
    this.at += n;
    return at;
  }
  u8(): number {
    return this.#view.getUint8(this.#take(1));
  }
  u32(): number {
    return this.#view.getUint32(this.#take(4), true);
  }
  i32(): number {
    return this.#view.getInt32(this.#take(4), true);
  }
  i64(): number {
    const v = Number(this.#view.getBigInt64(this.#take(8), true));
    if (!Number.isSafeInteger(v)) this.fail('a 64-bit number is out of range');
    return v;
  }
  f32(): number {
    return this.#view.getFloat32(this.#take(4), true);
  }
  f64(): number {
    return this.#view.getFloat64(this.#take(8), true);
  }
  raw(n: number): Uint8Array {
    const at = this.#take(n);
    return this.bytes.subarray(at, at + n);
  }
  text(): string {
    return decode(this.raw(this.u32()));
  }
}

/** Reads a file: all of it, or only the grids that are wanted by name. Throws `file-invalid` naming what is wrong. */
export function readVdb(bytes: Uint8Array, file = 'the file', wanted: (grid: string) => boolean = () => true): VdbFile {
  const r = new Reader(bytes, file);
  if (bytes.length < 60 || r.i64() !== MAGIC) r.fail('it does not start with the magic number');
  const version = r.u32();
  if (version < OLDEST_VERSION) r.fail(`file version ${String(version)} is older than ${String(OLDEST_VERSION)}`);
  const library = [r.u32(), r.u32()] as const;
  const seekable = r.u8() === 1;
  r.raw(36);
  readMetadata(r);
  const count = r.i32();
  if (count < 0 || count > 10000) r.fail(`it claims ${String(count)} grids`);
  const grids: VdbGrid[] = [];
  for (let n = 0; n < count; n++) grids.push(readGrid(r, seekable, grids, wanted));
  return { version, library, grids };
}

function readMetadata(r: Reader): Record<string, MetaValue> {
  const out: Record<string, MetaValue> = {};
  const count = r.u32();
  for (let n = 0; n < count; n++) {
    const name = r.text();
    const type = r.text();
    const size = r.u32();
    const end = r.at + size;
    if (end > r.bytes.length) r.fail('metadata run over the end');
    switch (type) {
      case 'string':
        out[name] = decode(r.raw(size));
        break;
      case 'bool':
        out[name] = r.u8() !== 0;
        break;
      case 'int32':
        out[name] = r.i32();
        break;
      case 'int64':
        out[name] = r.i64();
        break;
      case 'float':
        out[name] = r.f32();
        break;
      case 'double':
        out[name] = r.f64();
        break;
      case 'vec3i':
        out[name] = [r.i32(), r.i32(), r.i32()];
        break;
      case 'vec3s':
        out[name] = [r.f32(), r.f32(), r.f32()];
        break;
      case 'vec3d':
        out[name] = [r.f64(), r.f64(), r.f64()];
        break;
    }
    r.at = end;
  }
  return out;
}

function readTransform(r: Reader): { mapType: string; transform: VdbTransform | null } {
  const mapType = r.text();
  const three = (): [number, number, number] => [r.f64(), r.f64(), r.f64()];
  switch (mapType) {
    case 'UniformScaleMap':
    case 'ScaleMap': {
      const scale = three();
      for (let n = 0; n < 12; n++) r.f64();
      return { mapType, transform: { scale, translation: [0, 0, 0] } };
    }
    case 'UniformScaleTranslateMap':
    case 'ScaleTranslateMap': {
      const translation = three();
      const scale = three();
      for (let n = 0; n < 12; n++) r.f64();
      return { mapType, transform: { scale, translation } };
    }
    case 'TranslationMap':
      return { mapType, transform: { scale: [1, 1, 1], translation: three() } };
    case 'AffineMap':
    case 'UnitaryMap': {
      const m: number[] = [];
      for (let n = 0; n < 16; n++) m.push(r.f64());
      const straight = [1, 2, 4, 6, 8, 9].every((n) => m[n] === 0);
      const transform: VdbTransform | null = straight
        ? { scale: [m[0] ?? 1, m[5] ?? 1, m[10] ?? 1], translation: [m[12] ?? 0, m[13] ?? 0, m[14] ?? 0] }
        : null;
      return { mapType, transform };
    }
    default:
      return r.fail(`its transform "${mapType}" is not known`);
  }
}

function readGrid(r: Reader, seekable: boolean, earlier: readonly VdbGrid[], wanted: (grid: string) => boolean): VdbGrid {
  const unique = r.text();
  const type = r.text();
  const parent = r.text();
  r.i64();
  const blocks = r.i64();
  const end = r.i64();
  if (seekable && (end < r.at || end > r.bytes.length)) r.fail('a grid runs over the end');
  const half = type.endsWith('_HalfFloat');
  const base = half ? type.slice(0, -'_HalfFloat'.length) : type;
  const components = base === 'Tree_float_5_4_3' ? 1 : base === 'Tree_vec3s_5_4_3' ? 3 : 0;
  const flags = r.u32();
  if (flags > 7) r.fail(`its compression flags ${String(flags)} are not known`);
  const metadata = readMetadata(r);
  const { mapType, transform } = readTransform(r);
  const shown = unique.split('\u001e')[0] ?? '';
  const name = typeof metadata['name'] === 'string' ? metadata['name'] : shown;
  const result = { name, type: base, half, metadata, mapType, transform };
  if (parent !== '') {
    const source = earlier.find((g) => g.name === parent.split('\u001e')[0]);
    if (!source) r.fail(`the grid ${name} shares the tree of ${parent}, which is not there`);
    if (seekable) r.at = end;
    return { ...result, tiles: source.tiles, constantTiles: source.constantTiles };
  }
  if (seekable && !wanted(name)) {
    r.at = end;
    return { ...result, tiles: null, constantTiles: [] };
  }
  if (components === 0) {
    if (!seekable) r.fail(`the grid ${name} is of type ${type}, which is not read`);
    r.at = end;
    return { ...result, tiles: null, constantTiles: [] };
  }
  const tree = new TreeReader(r, components, flags, half);
  tree.topology();
  if (seekable && r.at !== blocks) r.fail('its leaf data does not start where it says');
  const tiles = tree.leaves(name);
  if (seekable && r.at !== end) r.fail(`the grid ${name} does not end where it says`);
  return { ...result, tiles, constantTiles: tree.constant };
}

class TreeReader {
  readonly constant: ConstantTile[] = [];
  #background: number[] = [];
  readonly #origins: number[] = [];
  readonly #elementSize: number;

  constructor(
    private readonly r: Reader,
    private readonly components: 1 | 3,
    private readonly flags: number,
    private readonly half: boolean,
  ) {
    this.#elementSize = (half ? 2 : 4) * components;
  }

  #value(): number[] {
    const v: number[] = [];
    for (let c = 0; c < this.components; c++) v.push(this.r.f32());
    return v;
  }

  topology(): void {
    const { r } = this;
    if (r.i32() !== 1) r.fail('its buffer count is not 1');
    this.#background = this.#value();
    const tiles = r.u32();
    const children = r.u32();
    for (let n = 0; n < tiles; n++) {
      const origin = [r.i32(), r.i32(), r.i32()] as const;
      const value = this.#value();
      if (r.u8() !== 0) this.constant.push({ origin, edge: 4096, value });
    }
    for (let n = 0; n < children; n++) this.#inner(r.i32(), r.i32(), r.i32(), INNER5);
  }

  #inner(x: number, y: number, z: number, slots: number): void {
    const { r } = this;
    const children = r.raw(slots / 8);
    const active = r.raw(slots / 8);
    const values = this.buffer(slots, active);
    const edge = slots === INNER5 ? 128 : 8;
    const bits = slots === INNER5 ? 5 : 4;
    const side = (1 << bits) - 1;
    for (let n = 0; n < slots; n++) {
      const bit = 1 << (n & 7);
      const cx = x + ((n >> (2 * bits)) & side) * edge;
      const cy = y + ((n >> bits) & side) * edge;
      const cz = z + (n & side) * edge;
      if ((children[n >> 3] ?? 0) & bit) {
        if (slots === INNER5) this.#inner(cx, cy, cz, INNER4);
        else {
          r.raw(64);
          this.#origins.push(cx, cy, cz);
        }
      } else if ((active[n >> 3] ?? 0) & bit) {
        const value = [...values.subarray(n * this.components, (n + 1) * this.components)];
        this.constant.push({ origin: [cx, cy, cz], edge, value });
      }
    }
  }

  leaves(name: string): TileGrid {
    const count = this.#origins.length / 3;
    const values = new Float32Array(count * LEAF * this.components);
    const masks = new Uint8Array(count * 64);
    for (let n = 0; n < count; n++) {
      const mask = this.r.raw(64);
      masks.set(mask, n * 64);
      values.set(this.buffer(LEAF, mask), n * LEAF * this.components);
    }
    return {
      name,
      components: this.components,
      background: this.#background,
      origins: Int32Array.from(this.#origins),
      values,
      masks,
    };
  }

  /** One value buffer: `slots` values of which `mask` are active. */
  buffer(slots: number, mask: Uint8Array): Float32Array {
    const { r, components } = this;
    const code = r.u8();
    if (code > 6) r.fail(`a buffer's code ${String(code)} is not known`);
    const background = this.#background;
    const stored: number[][] = [];
    const wanted = code === 2 || code === 4 ? 1 : code === 5 ? 2 : 0;
    for (let n = 0; n < wanted; n++) stored.push(this.#value());
    const selection = code >= 3 && code <= 5 ? r.raw(slots / 8) : null;
    const all = code === 6 || (this.flags & COMPRESS_MASK) === 0;
    let count = slots;
    if (!all) {
      count = 0;
      for (const byte of mask) for (let b = byte; b; b &= b - 1) count++;
    }
    const data = this.#data(count);
    if (all) return data;
    const negative = background.map((b) => -b);
    const [off, on]: [readonly number[], readonly number[]] =
      code === 1
        ? [negative, negative]
        : code === 2
          ? [stored[0] ?? background, stored[0] ?? background]
          : code === 3
            ? [negative, background]
            : code === 4
              ? [stored[0] ?? background, background]
              : code === 5
                ? [stored[0] ?? background, stored[1] ?? background]
                : [background, background];
    const out = new Float32Array(slots * components);
    let at = 0;
    for (let n = 0; n < slots; n++) {
      const bit = 1 << (n & 7);
      if ((mask[n >> 3] ?? 0) & bit) {
        for (let c = 0; c < components; c++) out[n * components + c] = data[at++] ?? 0;
      } else {
        const inactive = (selection?.[n >> 3] ?? 0) & bit ? on : off;
        for (let c = 0; c < components; c++) out[n * components + c] = inactive[c] ?? 0;
      }
    }
    return out;
  }

  #data(count: number): Float32Array {
    const { r, flags } = this;
    const bytes = count * this.#elementSize;
    const packed = (flags & (COMPRESS_ZIP | COMPRESS_BLOSC)) !== 0;
    let raw: Uint8Array;
    if (count === 0 && (this.half || !packed)) raw = new Uint8Array(0);
    else if (!packed) raw = r.raw(bytes);
    else {
      const length = r.i64();
      if (length <= 0) {
        if (-length !== bytes) r.fail('a buffer has a wrong length');
        raw = r.raw(bytes);
      } else {
        const body = r.raw(length);
        raw = flags & COMPRESS_BLOSC ? bloscDecompress(body, bytes) : inflate(r, body, bytes);
      }
    }
    const n = count * this.components;
    const out = new Float32Array(n);
    const view = new DataView(raw.buffer, raw.byteOffset, raw.byteLength);
    if (this.half) {
      const table = halfTable();
      for (let i = 0; i < n; i++) out[i] = table[view.getUint16(2 * i, true)] ?? 0;
    } else {
      for (let i = 0; i < n; i++) out[i] = view.getFloat32(4 * i, true);
    }
    return out;
  }
}

function inflate(r: Reader, body: Uint8Array, bytes: number): Uint8Array {
  let out: Uint8Array;
  try {
    // No more is unpacked than is expected and a little: enough to see that it would be too much.
    out = unzlibSync(body, { out: new Uint8Array(bytes + 8) });
  } catch {
    return r.fail('a zip buffer is damaged');
  }
  if (out.length !== bytes) r.fail('a zip buffer has a wrong length');
  return out;
}
