// Triangles of the zero line: marching cubes over a table that is made from its rule (core/surface/polygon-table.ts). Where a face's corners alternate, the bilinear
// function of its four values decides what is joined (the same numbers in the same order on both sides of it), so that neighbours always agree.
//
// A cell has its corner of the least i, j, k in a voxel's middle: corner c = x + 2 y + 4 z. Its edges along x are 0 to 3 (y + 2 z), along y 4 to 7 (x + 2 z), along z
// 8 to 11 (x + 2 y). An edge belongs to the voxel where it begins: of each voxel a byte says along which axes it is crossed, and its rank which vertex that is.
import { threadNumber } from './carry';
import { BLOCK, FIRST, PLANE, ROW, gatherBlock } from './surface-tiles';

/** Bytes of a thread: a block, and the sign bits of 9 x 9 rows. */
const OWN: usize = 16384 + 256;

/** Table: of each of the 256 cases 8 bytes: where its variants begin (u32, in bytes from the table), and its faces that alternate (u8). A variant: where it lies (u32). */
@inline
function variantOf(table: usize, state: i32, at: usize): usize {
  const entry = table + (<usize>state << 3);
  let variant: usize = 0;
  let bit: usize = 1;
  let faces = load<u8>(entry, 4);
  while (faces != 0) {
    const face = ctz(<i32>faces);
    faces &= faces - 1;
    if (joined(at, face)) variant |= bit;
    bit <<= 1;
  }
  return table + <usize>load<u32>(table + <usize>load<u32>(entry) + (variant << 2));
}

/** Whether the inside is joined through the middle of a cell's face (-x +x -y +y -z +z). */
@inline
function joined(at: usize, face: i32): bool {
  const u: usize = face < 2 ? ROW : 4;
  const v: usize = face < 4 ? PLANE : ROW;
  const w: usize = face < 2 ? 4 : face < 4 ? ROW : PLANE;
  const o = at + (face & 1 ? w : 0);
  const a = load<f32>(o);
  const b = load<f32>(o + u);
  const c = load<f32>(o + u + v);
  const d = load<f32>(o + v);
  return a < 0 ? a * c > b * d : a * c < b * d;
}

/** Sign bits (inside: 1) of nine voxels of each of 9 x 9 rows. */
function signRows(block: usize, rows: usize): void {
  const zero = f32x4.splat(0);
  for (let k: usize = 0; k < 9; ++k) {
    for (let j: usize = 0; j < 9; ++j) {
      const at = block + FIRST + k * PLANE + j * ROW;
      const bits =
        i32x4.bitmask(f32x4.lt(v128.load(at), zero)) |
        (i32x4.bitmask(f32x4.lt(v128.load(at, 16), zero)) << 4) |
        ((i32x4.bitmask(f32x4.lt(v128.load(at, 32), zero)) & 1) << 8);
      store<u16>(rows + ((k * 9 + j) << 1), <u16>bits);
    }
  }
}

/** Each item: a tile. Which edges are crossed (512 bytes), the rank of each voxel's first vertex (512 x u16), and vertices, triangles and vertices on edges (3 x i32, 16 bytes). */
export function countPolygons(begin: i32, end: i32, around: usize, field: usize, band: f32, table: usize, crossed: usize, ranks: usize, counts: usize, scratch: usize): void {
  const block = scratch + threadNumber() * OWN;
  const rows = block + BLOCK;
  for (let t = begin; t < end; ++t) {
    gatherBlock(block, around, t, field, 1, band);
    signRows(block, rows);
    const bytes = crossed + (<usize>t << 9);
    const rank = ranks + (<usize>t << 10);
    let vertices = 0;
    let extra = 0;
    let triangles = 0;
    for (let r: usize = 0; r < 64; ++r) {
      const k = r >> 3;
      const j = r & 7;
      const row = rows + ((k * 9 + j) << 1);
      const r00 = <i32>load<u16>(row);
      const r01 = <i32>load<u16>(row, 2);
      const r10 = <i32>load<u16>(row, 18);
      const r11 = <i32>load<u16>(row, 20);
      const any = r00 | r01 | r10 | r11;
      const all = r00 & r01 & r10 & r11;
      const to = r << 3;
      if (any == 0 || all == 0x1ff) {
        store<u64>(bytes + to, 0);
        const same = i16x8.splat(<i16>vertices);
        v128.store(rank + (to << 1), same);
        continue;
      }
      const x = r00 ^ (r00 >> 1);
      const y = r00 ^ r01;
      const z = r00 ^ r10;
      for (let i = 0; i < 8; ++i) {
        const bits = ((x >> i) & 1) | (((y >> i) & 1) << 1) | (((z >> i) & 1) << 2);
        store<u8>(bytes + to + <usize>i, <u8>bits);
        store<u16>(rank + ((to + <usize>i) << 1), <u16>vertices);
        vertices += popcnt(bits);
        const state =
          ((r00 >> i) & 3) | (((r01 >> i) & 3) << 2) | (((r10 >> i) & 3) << 4) | (((r11 >> i) & 3) << 6);
        if (state == 0 || state == 255) continue;
        const variant = variantOf(table, state, block + FIRST + k * PLANE + j * ROW + (<usize>i << 2));
        triangles += <i32>load<u8>(variant);
        extra += <i32>load<u8>(variant, 1);
      }
    }
    const out = counts + (<usize>t << 4);
    store<i32>(out, vertices + extra);
    store<i32>(out, triangles, 4);
    store<i32>(out, vertices, 8);
  }
}

/** The field's slope in a voxel of a block. */
@inline
function slopeAt(at: usize): v128 {
  return f32x4(load<f32>(at + 4) - load<f32>(at - 4), load<f32>(at + ROW) - load<f32>(at - ROW), load<f32>(at + PLANE) - load<f32>(at - PLANE), 0);
}

@inline
function put3(at: usize, value: v128): void {
  v128.store64_lane(at, value, 0);
  store<f32>(at, f32x4.extract_lane(value, 2), 8);
}

@inline
function length(value: v128): f32 {
  const q = f32x4.mul(value, value);
  return sqrt<f32>(f32x4.extract_lane(q, 0) + f32x4.extract_lane(q, 1) + f32x4.extract_lane(q, 2));
}

/** Vertex of an edge of the cell at (i, j, k) of a tile. */
@inline
function vertexOf(edge: i32, i: i32, j: i32, k: i32, own: usize, crossed: usize, ranks: usize, bases: usize): i32 {
  const axis = edge >> 2;
  const low = edge & 1;
  const high = (edge >> 1) & 1;
  const x = i + (axis == 0 ? 0 : low);
  const y = j + (axis == 0 ? low : axis == 1 ? 0 : high);
  const z = k + (axis == 2 ? 0 : high);
  const slot = load<i32>(own + (<usize>((z > 7 ? 18 : 9) + (y > 7 ? 6 : 3) + (x > 7 ? 2 : 1)) << 2));
  // Tiles that the zero line touches are there, with those beside: this cannot be.
  if (slot < 0) return 0;
  const voxel = <usize>(((z & 7) << 6) | ((y & 7) << 3) | (x & 7));
  const bits = <i32>load<u8>(crossed + (<usize>slot << 9) + voxel);
  return load<i32>(bases + (<usize>slot << 3)) + <i32>load<u16>(ranks + (<usize>slot << 10) + (voxel << 1)) + popcnt(bits & ((1 << axis) - 1));
}

/**
 * Each item: a tile. Places (metres) and normals (3 x f32 each) of its vertices, and its triangles (3 x u32). `bases`: of each slot the number of its first vertex and
 * of its first triangle.
 */
export function writePolygons(
  begin: i32,
  end: i32,
  records: usize,
  around: usize,
  field: usize,
  band: f32,
  table: usize,
  crossed: usize,
  ranks: usize,
  counts: usize,
  bases: usize,
  voxelSize: f32,
  places: usize,
  normals: usize,
  triangles: usize,
  scratch: usize,
): void {
  const block = scratch + threadNumber() * OWN;
  const rows = block + BLOCK;
  const size = f32x4.splat(voxelSize);
  for (let t = begin; t < end; ++t) {
    // A tile may have triangles and no vertex of its own.
    if (load<i32>(counts + (<usize>t << 4)) + load<i32>(counts + (<usize>t << 4), 4) == 0) continue;
    gatherBlock(block, around, t, field, 2, band);
    signRows(block, rows);
    const own = around + <usize>t * 108;
    const record = records + (<usize>t << 4);
    const origin = f32x4(<f32>load<i32>(record) + <f32>0.5, <f32>load<i32>(record, 4) + <f32>0.5, <f32>load<i32>(record, 8) + <f32>0.5, 0);
    let vertex = <usize>load<i32>(bases + (<usize>t << 3));
    for (let n: usize = 0; n < 512; ++n) {
      let bits = <i32>load<u8>(crossed + (<usize>t << 9) + n);
      if (bits == 0) continue;
      const at = block + FIRST + (n >> 6) * PLANE + ((n >> 3) & 7) * ROW + ((n & 7) << 2);
      const a = load<f32>(at);
      const here = f32x4.add(origin, f32x4(<f32>(n & 7), <f32>((n >> 3) & 7), <f32>(n >> 6), 0));
      const slope = slopeAt(at);
      while (bits != 0) {
        const axis = ctz(bits);
        bits &= bits - 1;
        const next = at + (axis == 0 ? 4 : axis == 1 ? ROW : PLANE);
        const b = load<f32>(next);
        const part: f32 = min<f32>(<f32>0.9999, max<f32>(<f32>0.0001, a / (a - b)));
        const step = f32x4(axis == 0 ? part : 0, axis == 1 ? part : 0, axis == 2 ? part : 0, 0);
        put3(places + vertex * 12, f32x4.mul(size, f32x4.add(here, step)));
        const normal = f32x4.add(slope, f32x4.mul(f32x4.splat(part), f32x4.sub(slopeAt(next), slope)));
        const long = length(normal);
        put3(normals + vertex * 12, long > 0 ? f32x4.mul(normal, f32x4.splat(1 / long)) : f32x4(0, 1, 0, 0));
        ++vertex;
      }
    }
    let triangle = triangles + <usize>load<i32>(bases + (<usize>t << 3), 4) * 12;
    for (let r: usize = 0; r < 64; ++r) {
      const k = r >> 3;
      const j = r & 7;
      const row = rows + ((k * 9 + j) << 1);
      const r00 = <i32>load<u16>(row);
      const r01 = <i32>load<u16>(row, 2);
      const r10 = <i32>load<u16>(row, 18);
      const r11 = <i32>load<u16>(row, 20);
      if ((r00 | r01 | r10 | r11) == 0 || (r00 & r01 & r10 & r11) == 0x1ff) continue;
      for (let i = 0; i < 8; ++i) {
        const state = ((r00 >> i) & 3) | (((r01 >> i) & 3) << 2) | (((r10 >> i) & 3) << 4) | (((r11 >> i) & 3) << 6);
        if (state == 0 || state == 255) continue;
        const variant = variantOf(table, state, block + FIRST + k * PLANE + j * ROW + (<usize>i << 2));
        const count = <usize>load<u8>(variant);
        const middles = <i32>load<u8>(variant, 1);
        for (let n: usize = 0; n < count * 3; ++n) {
          const edge = <i32>load<u8>(variant + 2 + n);
          const index = edge < 12 ? vertexOf(edge, i, <i32>j, <i32>k, own, crossed, ranks, bases) : <i32>vertex + edge - 12;
          store<i32>(triangle, index);
          triangle += 4;
        }
        // Middles of loops that no triangulation without one keeps apart from the next cell's.
        let list = variant + 2 + count * 3;
        for (let m = 0; m < middles; ++m) {
          const corners = <i32>load<u8>(list);
          let place = f32x4.splat(0);
          let normal = f32x4.splat(0);
          for (let c = 1; c <= corners; ++c) {
            const edge = <i32>load<u8>(list + <usize>c);
            const axis = edge >> 2;
            const low = <f32>(edge & 1);
            const high = <f32>((edge >> 1) & 1);
            const dx: usize = axis != 0 && (edge & 1) ? 4 : 0;
            const dy: usize = (axis == 0 ? edge & 1 : axis == 2 ? (edge >> 1) & 1 : 0) ? ROW : 0;
            const dz: usize = axis != 2 && (edge >> 1) & 1 ? PLANE : 0;
            const at = block + FIRST + k * PLANE + j * ROW + (<usize>i << 2) + dx + dy + dz;
            const next = at + (axis == 0 ? 4 : axis == 1 ? ROW : PLANE);
            const a = load<f32>(at);
            const b = load<f32>(next);
            const part: f32 = min<f32>(<f32>0.9999, max<f32>(<f32>0.0001, a / (a - b)));
            place = f32x4.add(place, f32x4(axis == 0 ? part : low, axis == 0 ? low : axis == 1 ? part : high, axis == 2 ? part : high, 0));
            normal = f32x4.add(normal, slopeAt(at));
          }
          const over: f32 = 1 / <f32>corners;
          const here = f32x4.add(origin, f32x4(<f32>i, <f32>j, <f32>k, 0));
          put3(places + vertex * 12, f32x4.mul(size, f32x4.add(here, f32x4.mul(place, f32x4.splat(over)))));
          const long = length(normal);
          put3(normals + vertex * 12, long > 0 ? f32x4.mul(normal, f32x4.splat(1 / long)) : f32x4(0, 1, 0, 0));
          ++vertex;
          list += <usize>corners + 1;
        }
      }
    }
  }
}

/**
 * Each item: 256 vertices. Velocity (3 x f32) and other columns of the particles around, weighted with (1 - s^2)^3, within a cell and a half, or further out where there are
 * none. `columns`: pointers to `width` columns by the particles' numbers before they were sorted (in `marks`).
 */
export function carryToVertices(
  begin: i32,
  end: i32,
  vertices: usize,
  count: i32,
  overCell: f32,
  slotOf: usize,
  cx: i32,
  cy: i32,
  cz: i32,
  nx: i32,
  ny: i32,
  nz: i32,
  cellStart: usize,
  places: usize,
  motions: usize,
  marks: usize,
  columns: usize,
  width: i32,
  velocities: usize,
  out: usize,
): void {
  const last = min(count, end << 8);
  for (let n = begin << 8; n < last; ++n) {
    const at = vertices + <usize>n * 12;
    const place = f32x4(load<f32>(at) * overCell, load<f32>(at, 4) * overCell, load<f32>(at, 8) * overCell, 0);
    const i = <i32>floor(f32x4.extract_lane(place, 0));
    const j = <i32>floor(f32x4.extract_lane(place, 1));
    const k = <i32>floor(f32x4.extract_lane(place, 2));
    const to = out + <usize>(n * width) * 4;
    for (let c = 0; c < width; ++c) store<f32>(to + (<usize>c << 2), 0);
    let velocity = f32x4.splat(0);
    let sum: f32 = 0;
    for (let far = 1; far <= 3 && sum == 0; ++far) {
      const over: f32 = 1 / (<f32>far * <f32>far);
      for (let z = k - far; z <= k + far; ++z) {
        for (let y = j - far; y <= j + far; ++y) {
          for (let x = i - far; x <= i + far; ++x) {
            const tx = (x >> 3) - cx;
            const ty = (y >> 3) - cy;
            const tz = (z >> 3) - cz;
            if (<u32>tx >= <u32>nx || <u32>ty >= <u32>ny || <u32>tz >= <u32>nz) continue;
            const slot = load<i32>(slotOf + (<usize>((tz * ny + ty) * nx + tx) << 2));
            if (slot < 0) continue;
            const cell = cellStart + (<usize>slot << 11) + (<usize>(((z & 7) << 6) | ((y & 7) << 3) | (x & 7)) << 2);
            const stop = load<i32>(cell, 4);
            for (let p = load<i32>(cell); p < stop; ++p) {
              const o = <usize>p << 4;
              const d = f32x4.sub(f32x4.replace_lane(v128.load(places + o), 3, 0), place);
              const q = f32x4.mul(d, d);
              const s: f32 = 1 - (f32x4.extract_lane(q, 0) + f32x4.extract_lane(q, 1) + f32x4.extract_lane(q, 2)) * over;
              if (s <= 0) continue;
              const weight: f32 = s * s * s;
              sum += weight;
              velocity = f32x4.add(velocity, f32x4.mul(v128.load(motions + o), f32x4.splat(weight)));
              if (width > 0) {
                const own = <usize>load<i32>(marks + o) << 2;
                for (let c = 0; c < width; ++c) {
                  const column = <usize>load<u32>(columns + (<usize>c << 2));
                  store<f32>(to + (<usize>c << 2), load<f32>(to + (<usize>c << 2)) + weight * load<f32>(column + own));
                }
              }
            }
          }
        }
      }
    }
    const by: f32 = sum > 0 ? 1 / sum : 0;
    put3(velocities + <usize>n * 12, f32x4.mul(velocity, f32x4.splat(by)));
    for (let c = 0; c < width; ++c) store<f32>(to + (<usize>c << 2), load<f32>(to + (<usize>c << 2)) * by);
  }
}
