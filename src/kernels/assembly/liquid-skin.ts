// Where liquid is: the signed distance of cell middles to the surface of the particles, which cells are liquid, and how much there is.
//
// The surface by averaged position (Zhu & Bridson 2005): the mean place of the particles within RADIUS of a cell's middle, weighted by volume and (1 - s^2)^3, lies
// the further away the nearer the surface is. There the paper takes a constant off; here the offset is turned into the distance that a half space of liquid with
// this offset has (a closed form, as a table), so that a flat surface is where it is, to the noise of the seeds, from inside and from outside. Distances are
// in voxels, negative inside, and end at -RADIUS and RADIUS.
import { SX, SP, TILES, STATUS, TILE_SHIFT, T_BASE, T_I, T_J, T_K } from './layout';
import { threadNumber } from './carry';

export const RADIUS: f32 = 1.5;
/** Entries of the table that turns offset / RADIUS into distance / RADIUS. */
const TABLE: f32 = 255;
/** Bytes of a thread: 27 slots (128), starts and ends of 1000 cells, three sets of 1000 bytes. */
export const OWN: usize = 11264;

const SLOTS: usize = 0;
export const STARTS: usize = 128;
export const ENDS: usize = 4128;
const FULL: usize = 8128;
const ANY: usize = 9152;
/** Cells with a coarse particle: what is around it is liquid, however few particles there are (liquid-band.ts). */
export const COARSE: usize = 10176;

/** Corner samples of a tile's solid distance, 9 x 9 x 9. */
const CORNERS: usize = 9;

@inline
function slotAt(slotOf: usize, x: i32, y: i32, z: i32, nx: i32, ny: i32, nz: i32): i32 {
  if (<u32>x >= <u32>nx || <u32>y >= <u32>ny || <u32>z >= <u32>nz) return -1;
  return load<i32>(slotOf + (<usize>((z * ny + y) * nx + x) << 2));
}

/**
 * Where the particles of a tile's cells, and of those beside it, lie; which of them hold liquid or solid, which hold liquid, and which a particle of `coarse` voxels
 * at least (0: there are none).
 */
export function gather(
  own: usize,
  rec: usize,
  slotOf: usize,
  nx: i32,
  ny: i32,
  nz: i32,
  cellStart: usize,
  motions: usize,
  coarse: f32,
  solid: usize,
  sx: usize,
  sp: usize,
): i32 {
  const x = load<i32>(rec, T_I) >> 3;
  const y = load<i32>(rec, T_J) >> 3;
  const z = load<i32>(rec, T_K) >> 3;
  for (let n = 0; n < 27; ++n) {
    store<i32>(own + (<usize>n << 2), slotAt(slotOf, x + (n % 3) - 1, y + ((n / 3) % 3) - 1, z + n / 9 - 1, nx, ny, nz), SLOTS);
  }
  const base = <usize>load<i32>(rec, T_BASE) - sp - sx - 1;
  let found = 0;
  let at: usize = 0;
  for (let k = 0; k < 10; ++k) {
    const tz = k == 0 ? 0 : k == 9 ? 2 : 1;
    const c = (k + 7) & 7;
    for (let j = 0; j < 10; ++j) {
      const ty = j == 0 ? 0 : j == 9 ? 2 : 1;
      const b = (j + 7) & 7;
      const row = solid + base + <usize>k * sp + <usize>j * sx;
      for (let i = 0; i < 10; ++i) {
        const slot = load<i32>(own + (<usize>(tz * 9 + ty * 3 + (i == 0 ? 0 : i == 9 ? 2 : 1)) << 2), SLOTS);
        let first = 0;
        let last = 0;
        if (slot >= 0) {
          const cell = cellStart + (<usize>slot << 11) + (<usize>((c << 6) | (b << 3) | ((i + 7) & 7)) << 2);
          first = load<i32>(cell);
          last = load<i32>(cell, 4);
        }
        store<i32>(own + (at << 2), first, STARTS);
        store<i32>(own + (at << 2), last, ENDS);
        const any = last > first;
        found |= <i32>any;
        store<u8>(own + at, <u8>(any || load<u8>(row + <usize>i) == 0), FULL);
        store<u8>(own + at, <u8>any, ANY);
        if (coarse > 0) {
          let held: u8 = 0;
          for (let p = first; held == 0 && p < last; ++p) held = <u8>(load<f32>(motions + (<usize>p << 4), 12) >= coarse);
          store<u8>(own + at, held, COARSE);
        }
        ++at;
      }
    }
  }
  return found;
}

/** Whether all (or any) of the 27 cells around one of a tile are set. */
@inline
export function around(set: usize, at: usize, all: bool): bool {
  let whole: u32 = all ? 0x010101 : 0;
  for (let k: usize = 0; k < 300; k += 100) {
    for (let j: usize = 0; j < 30; j += 10) {
      const three = load<u32>(set + at + k + j) & 0xffffff;
      whole = all ? whole & three : whole | three;
    }
  }
  return all ? whole == 0x010101 : whole != 0;
}

/** Offset / RADIUS that a half space has whose surface lies s RADIUS away. */
@inline
function offsetOf(s: f32): f32 {
  if (s >= 1) return 1;
  if (s <= -1) return 0;
  const q = s * s;
  const e: f32 = 1 - q;
  const below: f32 = s * (1 + q * (<f32>(-4.0 / 3) + q * (<f32>1.2 + q * (<f32>(-4.0 / 7) + q * <f32>(1.0 / 9)))));
  const mass: f32 = <f32>0.4063492 - below;
  return mass <= <f32>1e-6 ? 1 : (<f32>0.1 * e * e * e * e * e) / mass;
}

/** Each item: a slot. `sdf`: of each slot a pointer to its solids' distance at its corners, in voxels; 0: they are far. */
export function liquidDistance(
  begin: i32,
  end: i32,
  ctx: usize,
  slotOf: usize,
  nx: i32,
  ny: i32,
  nz: i32,
  cellStart: usize,
  places: usize,
  motions: usize,
  solid: usize,
  sdf: usize,
  table: usize,
  phi: usize,
  ox: i32,
  oy: i32,
  oz: i32,
  scratch: usize,
  coarse: f32,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const own = scratch + threadNumber() * OWN;
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    const found = gather(own, rec, slotOf, nx, ny, nz, cellStart, motions, coarse, solid, sx, sp);
    const corners = <usize>load<u32>(sdf + (<usize>t << 2));
    const tx: f32 = <f32>(load<i32>(rec, T_I) + ox) + 0.5;
    const ty: f32 = <f32>(load<i32>(rec, T_J) + oy) + 0.5;
    const tz: f32 = <f32>(load<i32>(rec, T_K) + oz) + 0.5;
    for (let n = 0; n < 512; ++n) {
      const i = n & 7;
      const j = (n >> 3) & 7;
      const k = n >> 6;
      const out = phi + ((base + <usize>k * sp + <usize>j * sx + <usize>i) << 2);
      const at = <usize>(k * 100 + j * 10 + i);
      if (!found || !around(own + ANY, at, false)) {
        store<f32>(out, RADIUS);
        continue;
      }
      if (around(own + FULL, at, true) || (coarse > 0 && around(own + COARSE, at, false))) {
        store<f32>(out, -RADIUS);
        continue;
      }
      store<f32>(out, distanceAt(own, at, places, motions, tx + <f32>i, ty + <f32>j, tz + <f32>k, corners, i, j, k, table));
    }
  }
}

function distanceAt(
  own: usize,
  at: usize,
  places: usize,
  motions: usize,
  x: f32,
  y: f32,
  z: f32,
  corners: usize,
  i: i32,
  j: i32,
  k: i32,
  table: usize,
): f32 {
  const middle = f32x4(x, y, z, 0);
  const over: f32 = 1 / (RADIUS * RADIUS);
  let sum = f32x4.splat(0);
  for (let c: usize = 0; c < 27; ++c) {
    const cell = own + ((at + (c / 9) * 100 + ((c / 3) % 3) * 10 + (c % 3)) << 2);
    const last = load<i32>(cell, ENDS);
    for (let p = load<i32>(cell, STARTS); p < last; ++p) {
      const d = f32x4.replace_lane(f32x4.sub(v128.load(places + (<usize>p << 4)), middle), 3, 1);
      const q = f32x4.mul(d, d);
      const s: f32 = 1 - (f32x4.extract_lane(q, 0) + f32x4.extract_lane(q, 1) + f32x4.extract_lane(q, 2)) * over;
      if (s <= 0) continue;
      sum = f32x4.add(sum, f32x4.mul(d, f32x4.splat(s * s * s * load<f32>(motions + (<usize>p << 4), 12))));
    }
  }
  const mass = f32x4.extract_lane(sum, 3);
  if (mass <= 0) return RADIUS;
  let dx = f32x4.extract_lane(sum, 0) / mass;
  let dy = f32x4.extract_lane(sum, 1) / mass;
  let dz = f32x4.extract_lane(sum, 2) / mass;
  if (corners != 0) {
    // A wall cuts particles off as the surface does: what it takes is put back, along its own direction.
    const q = corners + ((<usize>k * CORNERS * CORNERS + <usize>j * CORNERS + <usize>i) << 2);
    const c000 = load<f32>(q);
    const c100 = load<f32>(q, 4);
    const c010 = load<f32>(q, 36);
    const c110 = load<f32>(q, 40);
    const c001 = load<f32>(q, 324);
    const c101 = load<f32>(q, 328);
    const c011 = load<f32>(q, 360);
    const c111 = load<f32>(q, 364);
    const s: f32 = <f32>0.125 * (c000 + c100 + c010 + c110 + c001 + c101 + c011 + c111);
    if (s < RADIUS) {
      const gx = c100 + c110 + c101 + c111 - c000 - c010 - c001 - c011;
      const gy = c010 + c110 + c011 + c111 - c000 - c100 - c001 - c101;
      const gz = c001 + c101 + c011 + c111 - c000 - c100 - c010 - c110;
      const length = sqrt<f32>(gx * gx + gy * gy + gz * gz);
      if (length > 0) {
        const along = (dx * gx + dy * gy + dz * gz) / length;
        const part = min<f32>(along, RADIUS * offsetOf(-s / RADIUS)) / length;
        if (along > 0) {
          dx -= part * gx;
          dy -= part * gy;
          dz -= part * gz;
        }
      }
    }
  }
  const place: f32 = (min<f32>(RADIUS, sqrt<f32>(dx * dx + dy * dy + dz * dz)) / RADIUS) * TABLE;
  const low = floor<f32>(min<f32>(place, TABLE - 1));
  const entry = table + (<usize>(<i32>low) << 2);
  const from = load<f32>(entry);
  return RADIUS * (from + (load<f32>(entry, 4) - from) * (place - low));
}

/** Distance of walls from the middle of a tile's cell, voxels. */
@inline
export function wallOf(corners: usize, n: usize): f32 {
  const q = corners + (((n >> 6) * CORNERS * CORNERS + ((n >> 3) & 7) * CORNERS + (n & 7)) << 2);
  return (
    <f32>0.125 *
    (load<f32>(q) +
      load<f32>(q, 4) +
      load<f32>(q, 36) +
      load<f32>(q, 40) +
      load<f32>(q, 324) +
      load<f32>(q, 328) +
      load<f32>(q, 360) +
      load<f32>(q, 364))
  );
}

/** Part of a cell that is not solid, by its corners: exact for planes along an axis, and a cell in a corner of a box is whole. */
@inline
function openPart(corners: usize, n: usize): f32 {
  if (corners == 0) return 1;
  const q = corners + (((n >> 6) * CORNERS * CORNERS + ((n >> 3) & 7) * CORNERS + (n & 7)) << 2);
  let open: f32 = 0;
  let all: f32 = 0;
  for (let c: usize = 0; c < 8; ++c) {
    const d = load<f32>(q + (((c >> 2) * CORNERS * CORNERS + ((c >> 1) & 1) * CORNERS + (c & 1)) << 2));
    open += max<f32>(0, d);
    all += abs<f32>(d);
  }
  return all > 0 ? open / all : 0;
}

/** Part of a cell's weights that is not behind a wall `s` voxels from its middle: weights are tents of a voxel's half width. */
@inline
export function shareBefore(s: f32): f32 {
  if (s >= 1) return 1;
  const out: f32 = 1 - max<f32>(0, s);
  return 1 - <f32>0.5 * out * out;
}

/** Voxels that the surface by crowding may lie further in than that by the particles' mean place. */
const DOUBT: f32 = 0.25;

/**
 * Depth under a flat surface at which a cell holds so much. Particles that pile up in a corner of a cell have their mean place there, and the cell's middle would
 * lie outside for ever: nothing would press them apart (a front that runs along a floor gathered 500 particles in a voxel).
 */
@inline
function depthOf(amount: f32): f32 {
  return 1 - sqrt<f32>(2 * (1 - min<f32>(1, amount)));
}

/**
 * Which cells are liquid: status 1 where one can be and the distance is below 0, 2 (air) where one can be and is not; else as `solid` says. The pressure of what
 * is no liquid is 0. Of each slot, 32 bytes: voxels of liquid (f64), liquid cells, cells that are filled to the full.
 */
export function markLiquid(begin: i32, end: i32, ctx: usize, solid: usize, sdf: usize, phi: usize, amount: usize, pressure: usize, sums: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    const corners = <usize>load<u32>(sdf + (<usize>t << 2));
    let volume: f64 = 0;
    let cells = 0;
    let deep = 0;
    for (let n: usize = 0; n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      let s = load<u8>(solid + o);
      if (s == 1) {
        let d = load<f32>(phi + (o << 2));
        const held = load<f32>(amount + (o << 2)) / (corners == 0 ? <f32>1 : shareBefore(wallOf(corners, n)));
        if (held > <f32>0.5 && d > DOUBT - depthOf(held)) {
          d = DOUBT - depthOf(held);
          store<f32>(phi + (o << 2), d);
        }
        if (d < <f32>0.5) volume += <f64>(min<f32>(1, <f32>0.5 - d) * openPart(corners, n));
        if (d < 0) {
          ++cells;
          if (d <= -RADIUS) ++deep;
        } else s = 2;
      }
      store<u8>(status + o, s);
      if (s != 1) store<f32>(pressure + (o << 2), 0);
    }
    store<f64>(sums + (<usize>t << 5), volume);
    store<i32>(sums + (<usize>t << 5), cells, 8);
    store<i32>(sums + (<usize>t << 5), deep, 12);
  }
}

/** Least depth of a cell of liquid that has air beside it, voxels. */
const SHALLOW: f32 = 0.25;

/**
 * A cell all of whose neighbours hold particles counts as deep, however near the surface is: at a depth of 8.2 voxels the cell at 7.5 got 1.5 where .7 is right, and
 * the pressure at the surface was a third too soft. With air beside it, it lies a voxel further in than that air: exact along the axes. Of each slot the faces
 * between liquid and air (i32).
 */
export function surfaceDepth(begin: i32, end: i32, ctx: usize, solid: usize, phi: usize, sums: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    let faces = 0;
    for (let n: usize = 0; n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      if (load<u8>(status + o) != 1) continue;
      let least: f32 = RADIUS;
      let open = 0;
      for (let face = 0; face < 6; ++face) {
        const step = face < 2 ? <usize>1 : face < 4 ? sx : sp;
        const m = (face & 1) == 0 ? o - step : o + step;
        if (load<u8>(status + m) != 2 || load<u8>(solid + m) != 1) continue;
        ++open;
        least = min<f32>(least, load<f32>(phi + (m << 2)));
      }
      faces += open;
      if (open > 0 && load<f32>(phi + (o << 2)) <= -RADIUS) store<f32>(phi + (o << 2), min<f32>(-SHALLOW, least - 1));
    }
    store<i32>(sums + (<usize>t << 2), faces);
  }
}
