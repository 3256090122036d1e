// Transport of amounts by flux sweeps: piecewise parabolic profiles (Colella & Woodward 1984) with fluxes that may reach through several cells (Leonard,
// Lock & MacVean 1996), and a volume that is carried by the same fluxes, so that a constant stays one when the axes are swept one after the other (Easter
// 1993). What a cell gives its neighbour gets: amounts are kept to rounding.
//
// A cell's volume is 1 before the first sweep; `excess` holds its volume less 1, and is 0 wherever there is no unknown. Amounts are held per cell.
import { BUNDLES, chooseBundle, firstVoxel, isPlain, loadLast, loadLines, loadUnknown, narrowFaces, storeLines } from './lines';

/** No sweep leaves less than this of a cell's volume in it: profiles of amount / volume would be rounding. */
const LEAST: f32 = 0.1;
/** Entries of a buffer before the first cell and behind the last one, 16 bytes each. */
const PAD: usize = 48;

/** Number of this thread, 0 for the one that launches. */
let thread: usize = 0;
export function beThread(index: i32, _end: i32): void {
  thread = <usize>index;
}
@inline
export function threadNumber(): usize {
  return thread;
}

@inline
function at(buffer: usize, i: usize): v128 {
  return v128.load(buffer + (i << 4));
}

@inline
function pads(buffer: usize, n: usize, value: v128): void {
  v128.store(buffer - 48, value);
  v128.store(buffer - 32, value);
  v128.store(buffer - 16, value);
  v128.store(buffer + (n << 4), value);
  v128.store(buffer + (n << 4), value, 16);
  v128.store(buffer + (n << 4), value, 32);
}

/** Fluxes so small that no cell gives more than it has above LEAST: in the order of the flow, so that what comes in may go out. */
function limit(u: usize, volume: usize, mask: usize, n: usize): void {
  const zero = f32x4.splat(0);
  const least = f32x4.splat(LEAST);
  for (let i: usize = 0; i < n; ++i) {
    // Cells that give to both sides: both by the same factor.
    const low = at(u, i);
    const high = at(u, i + 1);
    const gives = v128.and(v128.and(f32x4.lt(low, zero), f32x4.gt(high, zero)), at(mask, i));
    if (!v128.any_true(gives)) continue;
    const has = f32x4.max(zero, f32x4.sub(at(volume, i), least));
    const factor = f32x4.min(f32x4.splat(1), f32x4.div(has, f32x4.sub(high, low)));
    v128.store(u + (i << 4), v128.bitselect(f32x4.mul(low, factor), low, gives));
    v128.store(u + (i << 4), v128.bitselect(f32x4.mul(high, factor), high, gives), 16);
  }
  for (let i: usize = 0; i < n; ++i) {
    const low = at(u, i);
    const high = at(u, i + 1);
    const passes = v128.and(v128.and(f32x4.ge(low, zero), f32x4.gt(high, zero)), at(mask, i));
    const most = f32x4.max(zero, f32x4.add(f32x4.sub(at(volume, i), least), low));
    v128.store(u + (i << 4), v128.bitselect(f32x4.min(high, most), high, passes), 16);
  }
  for (let i: usize = n; i-- > 0; ) {
    const low = at(u, i);
    const high = at(u, i + 1);
    const passes = v128.and(v128.and(f32x4.lt(low, zero), f32x4.le(high, zero)), at(mask, i));
    const most = f32x4.max(zero, f32x4.sub(f32x4.sub(at(volume, i), least), high));
    v128.store(u + (i << 4), v128.bitselect(f32x4.neg(f32x4.min(f32x4.neg(low), most)), low, passes));
  }
}

let toRight: v128 = f32x4.splat(0);
let toLeft: v128 = f32x4.splat(0);

/** Of one cell, from the differences over its faces and the slopes of it and the cells beside: limited so that the parabola has no extremum inside. */
@inline
function deviations(low: v128, high: v128, before: v128, own: v128, after: v128, half: v128, two: v128, sixth: v128, zero: v128): void {
  const a = f32x4.sub(f32x4.mul(half, high), f32x4.mul(sixth, f32x4.sub(after, own)));
  const b = f32x4.add(f32x4.mul(half, low), f32x4.mul(sixth, f32x4.sub(own, before)));
  const agree = f32x4.gt(f32x4.mul(a, b), zero);
  // |a| <= 2 |b| and |b| <= 2 |a|.
  const a2 = f32x4.mul(two, a);
  const b2 = f32x4.mul(two, b);
  toRight = v128.and(v128.bitselect(a, b2, f32x4.le(f32x4.abs(a), f32x4.abs(b2))), agree);
  toLeft = v128.and(v128.bitselect(b, a2, f32x4.le(f32x4.abs(b), f32x4.abs(a2))), agree);
}

/**
 * Profile, fluxes and new amounts in one walk, where every cell is unknown, every face open and no flux reaches further than one cell. `amount` holds the
 * amounts before and after; returns through `firstFlux` and `lastFlux` what crossed the run's ends.
 */
function carryPlain(amount: usize, inverse: usize, flow: usize, n: usize, bias: v128): void {
  const zero = f32x4.splat(0);
  const half = f32x4.splat(0.5);
  const two = f32x4.splat(2);
  const sixth = f32x4.splat(<f32>(1.0 / 6.0));
  let have = f32x4.sub(at(amount, 0), bias);
  let q = f32x4.mul(have, at(inverse, 0));
  let q1 = f32x4.mul(f32x4.sub(at(amount, 1), bias), at(inverse, 1));
  let low = q;
  let high = f32x4.sub(q1, q);
  let slope = limited(low, high, half, two, zero);
  let slopeBefore = zero;
  let qBefore = zero;
  let rightBefore = zero;
  let leftBefore = zero;
  let inverseBefore = f32x4.splat(1);
  let fluxBefore = zero;
  let haveBefore = zero;
  for (let i: usize = 0; i <= n; ++i) {
    // Cell i: behind the last one there is nothing.
    const p = i << 4;
    const q2 = i + 2 < n ? f32x4.mul(f32x4.sub(v128.load(amount + p, 32), bias), v128.load(inverse + p, 32)) : zero;
    const after = f32x4.sub(q2, q1);
    const slopeAfter = limited(high, after, half, two, zero);
    deviations(low, high, slopeBefore, slope, slopeAfter, half, two, sixth, zero);
    const f = v128.load(flow + p);
    const inv = v128.load(inverse + p);
    const positive = f32x4.gt(f, zero);
    const phi = f32x4.mul(f32x4.abs(f), v128.bitselect(inverseBefore, inv, positive));
    const value = v128.bitselect(outOfRight(qBefore, rightBefore, leftBefore, phi), outOfLeft(q, toRight, toLeft, phi), positive);
    const flux = f32x4.mul(f, value);
    if (i == 0) firstFlux = flux;
    else v128.store(amount + p - 16, f32x4.add(f32x4.add(haveBefore, f32x4.sub(fluxBefore, flux)), bias));
    fluxBefore = flux;
    haveBefore = have;
    have = i + 1 < n ? f32x4.sub(v128.load(amount + p, 16), bias) : zero;
    inverseBefore = inv;
    qBefore = q;
    rightBefore = toRight;
    leftBefore = toLeft;
    slopeBefore = slope;
    slope = slopeAfter;
    low = high;
    high = after;
    q = q1;
    q1 = q2;
  }
  lastFlux = fluxBefore;
}
let firstFlux: v128 = f32x4.splat(0);
let lastFlux: v128 = f32x4.splat(0);

/** Right and left deviations of each cell's parabola from its mean: q at its right end is q + right, at its left end q - left. */
function profile(q: usize, open: usize, right: usize, left: usize, n: usize): void {
  const zero = f32x4.splat(0);
  const half = f32x4.splat(0.5);
  const two = f32x4.splat(2);
  const sixth = f32x4.splat(<f32>(1.0 / 6.0));
  // Difference over the face before cell i, and slopes of the cells beside; -1 is the first cell that is looked at.
  let here = f32x4.sub(at(q, 0), v128.load(q - 16));
  if (open != 0) here = v128.and(here, f32x4.gt(at(open, 0), zero));
  let next = f32x4.sub(at(q, 1), at(q, 0));
  if (open != 0) next = v128.and(next, f32x4.gt(at(open, 1), zero));
  let slopeBefore = zero;
  let slope = limited(here, next, half, two, zero);
  for (let i: usize = 0; i < n; ++i) {
    let after = f32x4.sub(at(q, i + 2), at(q, i + 1));
    if (open != 0) after = v128.and(after, f32x4.gt(at(open, i + 2), zero));
    const slopeAfter = limited(next, after, half, two, zero);
    deviations(here, next, slopeBefore, slope, slopeAfter, half, two, sixth, zero);
    v128.store(right + (i << 4), toRight);
    v128.store(left + (i << 4), toLeft);
    here = next;
    next = after;
    slopeBefore = slope;
    slope = slopeAfter;
  }
}

@inline
function limited(low: v128, high: v128, half: v128, two: v128, zero: v128): v128 {
  const central = f32x4.mul(half, f32x4.add(low, high));
  const most = f32x4.mul(two, f32x4.pmin(f32x4.abs(low), f32x4.abs(high)));
  const size = f32x4.pmin(f32x4.abs(central), most);
  const signed = v128.or(size, v128.and(central, i32x4.splat(0x80000000)));
  return v128.and(signed, f32x4.gt(f32x4.mul(low, high), zero));
}

/** Mean over the part phi of a cell that lies at its right end. */
@inline
function outOfRight(q: v128, a: v128, b: v128, phi: v128): v128 {
  return f32x4.add(q, f32x4.mul(f32x4.sub(f32x4.splat(1), phi), f32x4.add(a, f32x4.mul(phi, f32x4.sub(b, a)))));
}

@inline
function outOfLeft(q: v128, a: v128, b: v128, phi: v128): v128 {
  return f32x4.sub(q, f32x4.mul(f32x4.sub(f32x4.splat(1), phi), f32x4.add(b, f32x4.mul(phi, f32x4.sub(a, b)))));
}

/** What crosses face i of the part of its flux that does not come out of the cell beside: upstream, each cell that is passed gives all it has. */
function reach(flow: v128, i: usize, n: usize, q: usize, right: usize, left: usize, volume: usize, inverse: usize): v128 {
  const zero = f32x4.splat(0);
  const positive = f32x4.gt(flow, zero);
  let rest = f32x4.sub(f32x4.abs(flow), v128.bitselect(at(volume, i - 1), at(volume, i), positive));
  let total = zero;
  // Out of the run there is nothing to carry.
  for (let k: usize = 1; v128.any_true(f32x4.gt(rest, zero)) && (k < i || i + k < n); ++k) {
    const low = k < i ? i - 1 - k : <usize>-1;
    const high = min<usize>(i + k, n);
    const m = v128.bitselect(at(volume, low), at(volume, high), positive);
    const t = f32x4.pmax(zero, f32x4.pmin(rest, m));
    const phi = f32x4.mul(t, v128.bitselect(at(inverse, low), at(inverse, high), positive));
    const value = v128.bitselect(
      outOfRight(at(q, low), at(right, low), at(left, low), phi),
      outOfLeft(at(q, high), at(right, high), at(left, high), phi),
      positive,
    );
    total = f32x4.add(total, f32x4.mul(t, value));
    rest = f32x4.sub(rest, t);
  }
  return v128.bitselect(total, f32x4.neg(total), positive);
}

@inline
function sumOf(v: v128): f64 {
  const low = f64x2.promote_low_f32x4(v);
  const high = f64x2.promote_low_f32x4(v128.shuffle<u64>(v, v, 1, 0));
  const both = f64x2.add(low, high);
  return f64x2.extract_lane(both, 0) + f64x2.extract_lane(both, 1);
}

/** Adds to what left through a wall, or else into a sleeping tile. */
@inline
function leaves(row: usize, wall: usize, beyond: bool, much: f64): void {
  const to = beyond ? row + wall : row + 16;
  store<f64>(to, load<f64>(to) + much);
}

/**
 * Sweeps along an axis: begin and end count runs (lines.ts). `u`: the velocity component of the axis, `scale`: voxels that a speed of 1 crosses in this
 * sweep; where `held` is not 0, an array with what earlier sweeps of the axis could not carry, and `takes` says whether to carry it now. `list`: `count`
 * records of a pointer and a value (float32) that counts as nothing: a cell's amount is what is stored less that.
 *
 * `first`: every volume is 1 and `excess` not read.
 * `lines`: `lineBytes` for each thread; `inside0`, `inside1`: first and last voxel along the axis that is not beyond an open wall.
 * `out`: 7 float64 a run: what of the first two scalars left through the low wall, the high wall and into sleeping tiles; then 1 when something was held back.
 */
export function carry(
  begin: i32,
  end: i32,
  ctx: usize,
  runs: usize,
  order: usize,
  axis: i32,
  u: usize,
  scale: f32,
  held: usize,
  takes: i32,
  excess: usize,
  first: i32,
  list: usize,
  count: i32,
  lines: usize,
  lineBytes: i32,
  longest: i32,
  inside0: i32,
  inside1: i32,
  out: usize,
): void {
  const size = (<usize>longest << 4) + 2 * PAD + 16;
  const own = lines + thread * <usize>lineBytes + PAD;
  const mask = own;
  const volume = own + size;
  const inverse = own + 2 * size;
  const flow = own + 3 * size;
  const wanted = own + 4 * size;
  const open = own + 5 * size;
  const amount = own + 6 * size;
  const q = own + 7 * size;
  const right = own + 8 * size;
  const left = own + 9 * size;
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const ones = i32x4.splat(-1);
  const k = f32x4.splat(scale);
  const least = f32x4.splat(LEAST);
  for (let run = begin; run < end; ++run) {
    const start = load<i32>(runs + (<usize>run << 3));
    const tiles = load<i32>(runs + (<usize>run << 3), 4);
    const n = <usize>tiles << 3;
    const sums = out + <usize>run * 56;
    for (let s: usize = 0; s < 7; ++s) store<f64>(sums + (s << 3), 0);
    chooseBundle(ctx, axis, order, start, tiles, 0);
    const plain = isPlain();
    const place = firstVoxel();
    for (let bundle = 0; bundle < BUNDLES; ++bundle) {
      chooseBundle(ctx, axis, order, start, tiles, bundle);

      // Volumes.
      if (first) for (let i: usize = 0; i < n; ++i) v128.store(volume + (i << 4), zero);
      else loadLines(excess, volume, 0);
      for (let i: usize = 0; i < n; ++i) v128.store(volume + (i << 4), f32x4.add(at(volume, i), one));
      pads(volume, n, one);

      // Fluxes of volume; what is closed, and what holds no unknown.
      loadLines(u, flow, 0);
      v128.store(flow + (n << 4), loadLast(u));
      for (let i: usize = 0; i <= n; ++i) v128.store(flow + (i << 4), f32x4.mul(at(flow, i), k));
      if (plain) {
        for (let i: usize = 0; i < n; ++i) v128.store(mask + (i << 4), ones);
        pads(mask, n, zero);
      } else {
        loadUnknown(mask);
        pads(mask, n, zero);
        for (let i: usize = 0; i <= n; ++i) v128.store(open + (i << 4), one);
        narrowFaces(open);
        pads(open, n + 1, one);
        for (let i: usize = 0; i <= n; ++i) {
          const some = v128.or(at(mask, i - 1), at(mask, i));
          v128.store(flow + (i << 4), v128.and(f32x4.mul(at(flow, i), at(open, i)), some));
        }
      }
      if (takes) {
        // The face behind the last cell lies in a tile that is not this run's: what it could not carry is not kept.
        loadLines(held, wanted, 0);
        for (let i: usize = 0; i < n; ++i) v128.store(flow + (i << 4), f32x4.add(at(flow, i), at(wanted, i)));
      }
      let emptied = zero;
      for (let i: usize = 0; i < n; ++i) {
        const stays = f32x4.sub(f32x4.add(at(volume, i), at(flow, i)), at(flow, i + 1));
        emptied = v128.or(emptied, v128.and(f32x4.lt(stays, least), at(mask, i)));
      }
      const limits = v128.any_true(emptied);
      if (limits || takes) {
        for (let i: usize = 0; i <= n; ++i) v128.store(wanted + (i << 4), at(flow, i));
        if (limits) limit(flow, volume, mask, n);
        let some = zero;
        for (let i: usize = 0; i < n; ++i) {
          const rest = f32x4.sub(at(wanted, i), at(flow, i));
          some = v128.or(some, f32x4.ne(rest, zero));
          v128.store(wanted + (i << 4), rest);
        }
        storeLines(wanted, held);
        if (v128.any_true(some)) store<f64>(sums, 1, 48);
      }

      // Whether a flux reaches further than the cell beside its face.
      let far = zero;
      for (let i: usize = 0; i <= n; ++i) {
        const f = at(flow, i);
        const upstream = v128.bitselect(at(volume, i - 1), at(volume, i), f32x4.gt(f, zero));
        far = v128.or(far, f32x4.gt(f32x4.abs(f), upstream));
      }
      const reaches = v128.any_true(far);
      for (let i: usize = 0; i < n; ++i) v128.store(inverse + (i << 4), f32x4.div(one, at(volume, i)));
      pads(inverse, n, one);

      for (let s = 0; s < count; ++s) {
        const field = <usize>load<u32>(list + <usize>(s << 3));
        const nothing = load<f32>(list + <usize>(s << 3), 4);
        if (!loadLines(field, amount, nothing)) continue;
        const bias = f32x4.splat(nothing);
        if (plain && !reaches) {
          carryPlain(amount, inverse, flow, n, bias);
          storeLines(amount, field);
          if (s < 2) {
            const row = sums + <usize>(s * 24);
            leaves(row, 0, place - 1 < inside0, sumOf(f32x4.pmax(zero, f32x4.neg(firstFlux))));
            leaves(row, 8, place + <i32>n > inside1, sumOf(f32x4.pmax(zero, lastFlux)));
          }
          continue;
        }
        if (nothing != 0) for (let i: usize = 0; i < n; ++i) v128.store(amount + (i << 4), f32x4.sub(at(amount, i), bias));
        // What solids and open cells hold belongs to others: it is put back as it was.
        if (plain) for (let i: usize = 0; i < n; ++i) v128.store(q + (i << 4), f32x4.mul(at(amount, i), at(inverse, i)));
        else for (let i: usize = 0; i < n; ++i) v128.store(q + (i << 4), v128.and(f32x4.mul(at(amount, i), at(inverse, i)), at(mask, i)));
        pads(q, n, zero);
        profile(q, plain ? 0 : open, right, left, n);
        pads(right, n, zero);
        pads(left, n, zero);
        let before = zero;
        for (let i: usize = 0; i <= n; ++i) {
          const f = at(flow, i);
          const p = i << 4;
          const positive = f32x4.gt(f, zero);
          const inv = v128.bitselect(v128.load(inverse + p - 16), v128.load(inverse + p), positive);
          // No more than the whole of the cell beside.
          const phi = f32x4.pmin(one, f32x4.mul(f32x4.abs(f), inv));
          const value = v128.bitselect(
            outOfRight(v128.load(q + p - 16), v128.load(right + p - 16), v128.load(left + p - 16), phi),
            outOfLeft(v128.load(q + p), v128.load(right + p), v128.load(left + p), phi),
            positive,
          );
          let flux: v128;
          if (reaches) {
            const m = v128.bitselect(v128.load(volume + p - 16), v128.load(volume + p), positive);
            flux = f32x4.mul(f32x4.pmax(f32x4.neg(m), f32x4.pmin(m, f)), value);
            if (v128.any_true(f32x4.gt(f32x4.abs(f), m))) flux = f32x4.add(flux, reach(f, i, n, q, right, left, volume, inverse));
          } else flux = f32x4.mul(f, value);
          if (s < 2) {
            const low = at(mask, i - 1);
            const high = at(mask, i);
            const edge = v128.xor(low, high);
            if (v128.any_true(edge)) {
              // The open cell is the one before the face where the low side holds no unknown.
              const went = v128.and(edge, f32x4.pmax(zero, v128.bitselect(flux, f32x4.neg(flux), low)));
              const row = sums + <usize>(s * 24);
              const cell = place + <i32>i;
              leaves(row, 0, cell - 1 < inside0, sumOf(v128.and(went, high)));
              leaves(row, 8, cell > inside1, sumOf(v128.and(went, low)));
            }
          }
          if (i > 0) {
            const change = v128.and(f32x4.sub(before, flux), v128.load(mask + p - 16));
            v128.store(amount + p - 16, f32x4.add(v128.load(amount + p - 16), change));
          }
          before = flux;
        }
        if (nothing != 0) for (let i: usize = 0; i < n; ++i) v128.store(amount + (i << 4), f32x4.add(at(amount, i), bias));
        storeLines(amount, field);
      }

      // The volumes after.
      for (let i: usize = 0; i < n; ++i) {
        const change = v128.and(f32x4.sub(at(flow, i), at(flow, i + 1)), at(mask, i));
        v128.store(volume + (i << 4), f32x4.sub(f32x4.add(at(volume, i), change), one));
      }
      storeLines(volume, excess);
    }
  }
}
