// What is wrong with how particles lie: cells in the middle of the liquid that hold none, cells that hold far too many, and how near to walls they come.
import { SX, SP, TILES, STATUS, TILE_SHIFT, T_BASE, T_I, T_J, T_K } from './layout';
import { threadNumber } from './carry';
import { COARSE, ENDS, OWN, STARTS, around, gather, shareBefore, wallOf } from './liquid-skin';

/** Voxels of volume in a voxel from which it is a clump. */
const CLUMP: f32 = 2;
/** Deepest that a cell's middle may lie from a wall, and least under the surface, to be looked at for a gap. */
const BESIDE: f32 = 1;
const UNDER: f32 = -0.75;
/** A wall is touched, not entered, so deep: rounding. */
const TOUCH: f32 = 1e-3;
/** Farthest along the wall that a particle still is one beside a cell. */
const ALONG: f32 = 0.75;

/** Per slot 32 bytes: cells of the bulk, those of them without a particle, clumps (i32); cells beside walls (i32), their largest gap and the sum of gaps (f32, voxels); particles inside of walls (i32). */
export function findFlaws(
  begin: i32,
  end: i32,
  ctx: usize,
  slotOf: usize,
  nx: i32,
  ny: i32,
  nz: i32,
  cellStart: usize,
  tileStart: usize,
  places: usize,
  motions: usize,
  coarse: f32,
  solid: usize,
  sdf: usize,
  phi: usize,
  amount: usize,
  ox: i32,
  oy: i32,
  oz: i32,
  scratch: usize,
  sums: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  const own = scratch + threadNumber() * OWN;
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    const corners = <usize>load<u32>(sdf + (<usize>t << 2));
    const found = gather(own, rec, slotOf, nx, ny, nz, cellStart, motions, coarse, solid, sx, sp);
    let bulk = 0;
    let empty = 0;
    let clumps = 0;
    let beside = 0;
    let largest: f32 = 0;
    let sum: f32 = 0;
    for (let n: usize = 0; found && n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      if (load<u8>(solid + o) != 1) continue;
      const wall: f32 = corners == 0 ? 100 : wallOf(corners, n);
      const held = load<f32>(amount + (o << 2)) / (corners == 0 ? <f32>1 : max<f32>(0.25, shareBefore(wall)));
      if (held > CLUMP) ++clumps;
      const at = ((n >> 6) + 1) * 100 + (((n >> 3) & 7) + 1) * 10 + (n & 7) + 1;
      if (
        wall >= 1 &&
        wet(status, o - 1) && wet(status, o + 1) && wet(status, o - sx) && wet(status, o + sx) && wet(status, o - sp) && wet(status, o + sp)
      ) {
        ++bulk;
        if (load<i32>(own + (at << 2), STARTS) == load<i32>(own + (at << 2), ENDS) && !(coarse > 0 && around(own + COARSE, at - 111, false))) ++empty;
      }
      if (wall < 0 || wall >= BESIDE || load<f32>(phi + (o << 2)) > UNDER) continue;
      const gap = gapAt(own, at, places, corners, n, wall, <f32>(load<i32>(rec, T_I) + ox), <f32>(load<i32>(rec, T_J) + oy), <f32>(load<i32>(rec, T_K) + oz));
      if (gap < 0) continue;
      ++beside;
      sum += gap;
      largest = max<f32>(largest, gap);
    }
    let inside = 0;
    if (corners != 0) {
      const last = load<i32>(tileStart + (<usize>t << 2), 4);
      const x = <f32>(load<i32>(rec, T_I) + ox);
      const y = <f32>(load<i32>(rec, T_J) + oy);
      const z = <f32>(load<i32>(rec, T_K) + oz);
      for (let p = load<i32>(tileStart + (<usize>t << 2)); p < last; ++p) {
        const o = places + (<usize>p << 4);
        if (wallDistance(corners, load<f32>(o) - x, load<f32>(o, 4) - y, load<f32>(o, 8) - z) < -TOUCH) ++inside;
      }
    }
    const into = sums + (<usize>t << 5);
    store<i32>(into, bulk);
    store<i32>(into, empty, 4);
    store<i32>(into, clumps, 8);
    store<i32>(into, beside, 12);
    store<f32>(into, largest, 16);
    store<f32>(into, sum, 20);
    store<i32>(into, inside, 24);
  }
}

/** Distance of walls at a place in a tile, between its corners' distances. */
@inline
function wallDistance(corners: usize, x: f32, y: f32, z: f32): f32 {
  const i = max<f32>(0, min<f32>(7, floor<f32>(x)));
  const j = max<f32>(0, min<f32>(7, floor<f32>(y)));
  const k = max<f32>(0, min<f32>(7, floor<f32>(z)));
  const q = corners + (<usize>(<i32>k * 81 + <i32>j * 9 + <i32>i) << 2);
  const fx = x - i;
  const fy = y - j;
  const near = (load<f32>(q) * (1 - fx) + load<f32>(q, 4) * fx) * (1 - fy) + (load<f32>(q, 36) * (1 - fx) + load<f32>(q, 40) * fx) * fy;
  const far = (load<f32>(q, 324) * (1 - fx) + load<f32>(q, 328) * fx) * (1 - fy) + (load<f32>(q, 360) * (1 - fx) + load<f32>(q, 364) * fx) * fy;
  return near + (far - near) * (z - k);
}

@inline
function wet(status: usize, o: usize): bool {
  return load<u8>(status + o) == 1;
}

/** How near to the wall the nearest particle beside a cell comes, by the wall's plane through the cell; below 0: there is no wall to speak of. */
function gapAt(own: usize, at: usize, places: usize, corners: usize, n: usize, wall: f32, tx: f32, ty: f32, tz: f32): f32 {
  const i = n & 7;
  const j = (n >> 3) & 7;
  const k = n >> 6;
  let gx: f32 = 0;
  let gy: f32 = 0;
  let gz: f32 = 0;
  for (let c: usize = 0; c < 8; ++c) {
    const d: f32 = <f32>0.25 * load<f32>(corners + (((k + (c >> 2)) * 81 + (j + ((c >> 1) & 1)) * 9 + i + (c & 1)) << 2));
    gx += c & 1 ? d : -d;
    gy += c & 2 ? d : -d;
    gz += c & 4 ? d : -d;
  }
  const length = sqrt<f32>(gx * gx + gy * gy + gz * gz);
  // In a corner there is no single plane.
  if (length < 0.9) return -1;
  gx /= length;
  gy /= length;
  gz /= length;
  const x = tx + <f32>i + 0.5;
  const y = ty + <f32>j + 0.5;
  const z = tz + <f32>k + 0.5;
  // Nothing there: as far as the cells that were looked at reach.
  let nearest: f32 = wall + 1;
  for (let c: usize = 0; c < 27; ++c) {
    const cell = own + ((at + (c / 9) * 100 + ((c / 3) % 3) * 10 + (c % 3) - 111) << 2);
    const last = load<i32>(cell, ENDS);
    for (let p = load<i32>(cell, STARTS); p < last; ++p) {
      const dx = load<f32>(places + (<usize>p << 4)) - x;
      const dy = load<f32>(places + (<usize>p << 4), 4) - y;
      const dz = load<f32>(places + (<usize>p << 4), 8) - z;
      const out = dx * gx + dy * gy + dz * gz;
      if (dx * dx + dy * dy + dz * dz - out * out <= ALONG * ALONG) nearest = min<f32>(nearest, wall + out);
    }
  }
  return max<f32>(0, nearest);
}
