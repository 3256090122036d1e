// A fine grid that is carried by the velocities of a coarse one, with added eddies: wavelet turbulence (Kim, Thürey, James, Gross 2008).
//
// Lattice: dense points of the coarse grid's voxel middles, x fastest, 16 bytes each (four float32). A frame of it, 7 words: points along x, y, z (i32),
// points a fine voxel (f32), and the place of the fine window's corner in points (x, y, z, f32). All lattices of a pass have the same frame.
//
// Potential: three fields of the fine window, whose values belong to the low corner (node) of a voxel. Its discrete curl over the edges, whose potential is
// the mean of their two nodes, has no divergence whatever the potential is.
import { SX, SP, TILES, STATUS, TILE_SHIFT, T_BASE, T_I, T_J, T_K } from './layout';

/** Offset of the lowest of eight points, and the parts between them; thread-local, as each thread has its own instance. */
let corner: usize = 0;
let partX: v128 = f32x4.splat(0);
let partY: v128 = f32x4.splat(0);
let partZ: v128 = f32x4.splat(0);
let alongY: usize = 0;
let alongZ: usize = 0;

/** Finds the points around a place that is given in points; places beyond the lattice are those of its rim. */
@inline
function locatePoint(frame: usize, x: f32, y: f32, z: f32): void {
  const nx = load<i32>(frame);
  const ny = load<i32>(frame, 4);
  const nz = load<i32>(frame, 8);
  const bx = min<f32>(<f32>(nx - 1) - 0.001, max<f32>(0, x));
  const by = min<f32>(<f32>(ny - 1) - 0.001, max<f32>(0, y));
  const bz = min<f32>(<f32>(nz - 1) - 0.001, max<f32>(0, z));
  const i = <i32>bx;
  const j = <i32>by;
  const k = <i32>bz;
  partX = f32x4.splat(bx - <f32>i);
  partY = f32x4.splat(by - <f32>j);
  partZ = f32x4.splat(bz - <f32>k);
  alongY = <usize>nx << 4;
  alongZ = <usize>(nx * ny) << 4;
  corner = <usize>((k * ny + j) * nx + i) << 4;
}

@inline
function mix(a: v128, b: v128, t: v128): v128 {
  return f32x4.add(a, f32x4.mul(f32x4.sub(b, a), t));
}

/** A lattice at the place that was found last, trilinear. */
@inline
function fetch(lattice: usize): v128 {
  const o = lattice + corner;
  const v00 = mix(v128.load(o), v128.load(o, 16), partX);
  const v10 = mix(v128.load(o + alongY), v128.load(o + alongY, 16), partX);
  const v01 = mix(v128.load(o + alongZ), v128.load(o + alongZ, 16), partX);
  const v11 = mix(v128.load(o + alongZ + alongY), v128.load(o + alongZ + alongY, 16), partX);
  return mix(mix(v00, v10, partY), mix(v01, v11, partY), partZ);
}

/** Points of the noise along each axis; it repeats. */
const NOISE: i32 = 64;

@inline
function weigh3(a: v128, b: v128, c: v128, low: v128, middle: v128, high: v128): v128 {
  return f32x4.add(f32x4.mul(a, low), f32x4.add(f32x4.mul(b, middle), f32x4.mul(c, high)));
}

/** Weights of a quadratic B-spline for a place so far from the middle one of three points. */
@inline
function lowWeight(f: f32): v128 {
  return f32x4.splat(<f32>0.5 * (<f32>0.5 - f) * (<f32>0.5 - f));
}
@inline
function middleWeight(f: f32): v128 {
  return f32x4.splat(<f32>0.75 - f * f);
}
@inline
function highWeight(f: f32): v128 {
  return f32x4.splat(<f32>0.5 * (<f32>0.5 + f) * (<f32>0.5 + f));
}

/** Three noises at a place of theirs, by quadratic B-splines over 27 points. */
@inline
function noiseAt(noise: usize, x: f32, y: f32, z: f32): v128 {
  const cx = Mathf.floor(x + 0.5);
  const cy = Mathf.floor(y + 0.5);
  const cz = Mathf.floor(z + 0.5);
  const fx = x - cx;
  const fy = y - cy;
  const fz = z - cz;
  const i = <i32>cx;
  const j = <i32>cy;
  const k = <i32>cz;
  const xl = lowWeight(fx);
  const xm = middleWeight(fx);
  const xh = highWeight(fx);
  const yl = lowWeight(fy);
  const ym = middleWeight(fy);
  const yh = highWeight(fy);
  const il = <usize>((i - 1) & (NOISE - 1)) << 4;
  const im = <usize>(i & (NOISE - 1)) << 4;
  const ih = <usize>((i + 1) & (NOISE - 1)) << 4;
  const jl = <usize>((j - 1) & (NOISE - 1)) * (NOISE << 4);
  const jm = <usize>(j & (NOISE - 1)) * (NOISE << 4);
  const jh = <usize>((j + 1) & (NOISE - 1)) * (NOISE << 4);
  let p = noise + <usize>((k - 1) & (NOISE - 1)) * ((NOISE * NOISE) << 4);
  const low = plane(p, il, im, ih, jl, jm, jh, xl, xm, xh, yl, ym, yh);
  p = noise + <usize>(k & (NOISE - 1)) * ((NOISE * NOISE) << 4);
  const middle = plane(p, il, im, ih, jl, jm, jh, xl, xm, xh, yl, ym, yh);
  p = noise + <usize>((k + 1) & (NOISE - 1)) * ((NOISE * NOISE) << 4);
  const high = plane(p, il, im, ih, jl, jm, jh, xl, xm, xh, yl, ym, yh);
  return weigh3(low, middle, high, lowWeight(fz), middleWeight(fz), highWeight(fz));
}

@inline
function plane(
  p: usize,
  il: usize,
  im: usize,
  ih: usize,
  jl: usize,
  jm: usize,
  jh: usize,
  xl: v128,
  xm: v128,
  xh: v128,
  yl: v128,
  ym: v128,
  yh: v128,
): v128 {
  const a = p + jl;
  const b = p + jm;
  const c = p + jh;
  return weigh3(
    weigh3(v128.load(a + il), v128.load(a + im), v128.load(a + ih), xl, xm, xh),
    weigh3(v128.load(b + il), v128.load(b + im), v128.load(b + ih), xl, xm, xh),
    weigh3(v128.load(c + il), v128.load(c + im), v128.load(c + ih), xl, xm, xh),
    yl,
    ym,
    yh,
  );
}

/** Whether the tile on the high side along an axis is active. */
@inline
function goesOn(status: usize, base: i32, stride: i32): bool {
  return load<u8>(status + <usize>(base + 8 * stride)) == 1;
}

/** Whether one of the eight voxels around a node is solid. */
@inline
function touchesSolid(cell: usize, sx: usize, sp: usize): bool {
  const a = cell - 1;
  return (
    load<u8>(a) == 0 ||
    load<u8>(cell) == 0 ||
    load<u8>(a - sx) == 0 ||
    load<u8>(cell - sx) == 0 ||
    load<u8>(a - sp) == 0 ||
    load<u8>(cell - sp) == 0 ||
    load<u8>(a - sx - sp) == 0 ||
    load<u8>(cell - sx - sp) == 0
  );
}

/**
 * Potential of the added velocity at the nodes of the active tiles, those of their high sides too where no active tile owns them. Two layers of places
 * (how far, in points, what is now here has come; fourth word: strength, m/s) and their shares; octaves of noise, each 9 f32 words: noise points a
 * point, gain (m/s to m/s x fine voxels), and the noise's shift of both layers (x, y, z each), one unused. 0 at every node that touches a solid.
 * `near`: one byte a tile, 0 where no solid is about. `first`: world points of the window's corner less that of the lattice.
 */
export function addedPotential(
  begin: i32,
  end: i32,
  ctx: usize,
  frame: usize,
  layerA: usize,
  layerB: usize,
  shareA: f32,
  shareB: f32,
  noise: usize,
  octaves: usize,
  count: i32,
  firstX: f32,
  firstY: f32,
  firstZ: f32,
  near: usize,
  outX: usize,
  outY: usize,
  outZ: usize,
): void {
  const sx = load<i32>(ctx, SX);
  const sp = load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  const scale = load<f32>(frame, 12);
  const cornerX = load<f32>(frame, 16);
  const cornerY = load<f32>(frame, 20);
  const cornerZ = load<f32>(frame, 24);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = load<i32>(rec, T_BASE);
    const ni = goesOn(status, base, 1) ? 8 : 9;
    const nj = goesOn(status, base, sx) ? 8 : 9;
    const nk = goesOn(status, base, sp) ? 8 : 9;
    const solids = load<u8>(near + <usize>t) != 0;
    for (let k = 0; k < nk; ++k) {
      const z = <f32>(load<i32>(rec, T_K) + k) * scale + cornerZ;
      for (let j = 0; j < nj; ++j) {
        const y = <f32>(load<i32>(rec, T_J) + j) * scale + cornerY;
        let at = base + k * sp + j * sx;
        for (let i = 0; i < ni; ++i, ++at) {
          let sum = f32x4.splat(0);
          if (!solids || !touchesSolid(status + <usize>at, <usize>sx, <usize>sp)) {
            const x = <f32>(load<i32>(rec, T_I) + i) * scale + cornerX;
            locatePoint(frame, x, y, z);
            for (let layer = 0; layer < 2; ++layer) {
              const share = layer == 0 ? shareA : shareB;
              if (share == 0) continue;
              const place = fetch(layer == 0 ? layerA : layerB);
              const strength = f32x4.extract_lane(place, 3) * share;
              if (strength == 0) continue;
              const px = x + firstX + f32x4.extract_lane(place, 0);
              const py = y + firstY + f32x4.extract_lane(place, 1);
              const pz = z + firstZ + f32x4.extract_lane(place, 2);
              for (let o = 0; o < count; ++o) {
                const octave = octaves + <usize>(o * 36);
                const s = load<f32>(octave);
                const shift = octave + (layer == 0 ? 8 : 20);
                const value = noiseAt(noise, px * s + load<f32>(shift), py * s + load<f32>(shift, 4), pz * s + load<f32>(shift, 8));
                sum = f32x4.add(sum, f32x4.mul(value, f32x4.splat(strength * load<f32>(octave, 4))));
              }
            }
          }
          const to = <usize>at << 2;
          store<f32>(outX + to, f32x4.extract_lane(sum, 0));
          store<f32>(outY + to, f32x4.extract_lane(sum, 1));
          store<f32>(outZ + to, f32x4.extract_lane(sum, 2));
        }
      }
    }
  }
}

/** Twice the potential of the edge from a node, by the node at its other end. */
@inline
function edge(p: usize, stride: usize): f32 {
  return load<f32>(p) + load<f32>(p + stride);
}

/**
 * Velocities of the low faces of the active voxels, and of the high sides where no active tile owns them: the lattice's, and the curl of the potential. 0 at
 * faces of solid voxels.
 */
export function carriedFaces(
  begin: i32,
  end: i32,
  ctx: usize,
  frame: usize,
  velocity: usize,
  ax: usize,
  ay: usize,
  az: usize,
  u: usize,
  v: usize,
  w: usize,
): void {
  const sx = load<i32>(ctx, SX);
  const sp = load<i32>(ctx, SP);
  const bx = <usize>sx << 2;
  const bp = <usize>sp << 2;
  const status = <usize>load<u32>(ctx, STATUS);
  const scale = load<f32>(frame, 12);
  const half = <f32>0.5 * scale;
  const cornerX = load<f32>(frame, 16);
  const cornerY = load<f32>(frame, 20);
  const cornerZ = load<f32>(frame, 24);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = load<i32>(rec, T_BASE);
    const ni = goesOn(status, base, 1) ? 8 : 9;
    const nj = goesOn(status, base, sx) ? 8 : 9;
    const nk = goesOn(status, base, sp) ? 8 : 9;
    for (let k = 0; k < nk; ++k) {
      const z = <f32>(load<i32>(rec, T_K) + k) * scale + cornerZ;
      for (let j = 0; j < nj; ++j) {
        const y = <f32>(load<i32>(rec, T_J) + j) * scale + cornerY;
        let at = base + k * sp + j * sx;
        for (let i = 0; i < ni; ++i, ++at) {
          const x = <f32>(load<i32>(rec, T_I) + i) * scale + cornerX;
          const cell = status + <usize>at;
          const solid = load<u8>(cell) == 0;
          const o = <usize>at << 2;
          if (j < 8 && k < 8) {
            let value: f32 = 0;
            if (!solid && load<u8>(cell - 1) != 0) {
              locatePoint(frame, x, y + half, z + half);
              const curl = edge(az + o + bx, bp) - edge(az + o, bp) - edge(ay + o + bp, bx) + edge(ay + o, bx);
              value = f32x4.extract_lane(fetch(velocity), 0) + <f32>0.5 * curl;
            }
            store<f32>(u + o, value);
          }
          if (i < 8 && k < 8) {
            let value: f32 = 0;
            if (!solid && load<u8>(cell - <usize>sx) != 0) {
              locatePoint(frame, x + half, y, z + half);
              const curl = edge(ax + o + bp, 4) - edge(ax + o, 4) - edge(az + o + 4, bp) + edge(az + o, bp);
              value = f32x4.extract_lane(fetch(velocity), 1) + <f32>0.5 * curl;
            }
            store<f32>(v + o, value);
          }
          if (i < 8 && j < 8) {
            let value: f32 = 0;
            if (!solid && load<u8>(cell - <usize>sp) != 0) {
              locatePoint(frame, x + half, y + half, z);
              const curl = edge(ay + o + 4, bx) - edge(ay + o, bx) - edge(ax + o + bx, 4) + edge(ax + o, 4);
              value = f32x4.extract_lane(fetch(velocity), 2) + <f32>0.5 * curl;
            }
            store<f32>(w + o, value);
          }
        }
      }
    }
  }
}

/** Each item: a plane of points. Where what is now at a point has come from grows by this step's way back (midpoint rule); `step`: points a m/s. */
export function carryPlaces(begin: i32, end: i32, frame: usize, velocity: usize, from: usize, to: usize, step: f32): void {
  const nx = load<i32>(frame);
  const ny = load<i32>(frame, 4);
  for (let k = begin; k < end; ++k) {
    for (let j = 0; j < ny; ++j) {
      let o = <usize>((k * ny + j) * nx) << 4;
      for (let i = 0; i < nx; ++i, o += 16) {
        const here = v128.load(velocity + o);
        const mid = f32x4.mul(here, f32x4.splat(<f32>-0.5 * step));
        locatePoint(
          frame,
          <f32>i + f32x4.extract_lane(mid, 0),
          <f32>j + f32x4.extract_lane(mid, 1),
          <f32>k + f32x4.extract_lane(mid, 2),
        );
        const back = f32x4.mul(fetch(velocity), f32x4.splat(-step));
        locatePoint(
          frame,
          <f32>i + f32x4.extract_lane(back, 0),
          <f32>j + f32x4.extract_lane(back, 1),
          <f32>k + f32x4.extract_lane(back, 2),
        );
        v128.store(to + o, f32x4.replace_lane(f32x4.add(fetch(from), back), 3, 0));
      }
    }
  }
}

/**
 * Each item: a row of points. Means of two fields of the fine window, less what they hold where nothing is, over the fluid voxels that a coarse voxel
 * covers; 0 where there are none. `per`: fine voxels a point; `low`: the fine voxel, from the window's corner, at which point 0 begins (x, y, z).
 */
export function averageOver(
  begin: i32,
  end: i32,
  ctx: usize,
  frame: usize,
  window: usize,
  per: f32,
  lowX: f32,
  lowY: f32,
  lowZ: f32,
  fieldA: usize,
  nothingA: f32,
  fieldB: usize,
  nothingB: f32,
  out: usize,
): void {
  const nx = load<i32>(frame);
  const ny = load<i32>(frame, 4);
  const sx = load<i32>(ctx, SX);
  const sp = load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  const first = load<i32>(window);
  const wx = load<i32>(window, 4);
  const wy = load<i32>(window, 8);
  const wz = load<i32>(window, 12);
  for (let row = begin; row < end; ++row) {
    const z0 = lowZ + <f32>(row / ny) * per;
    const y0 = lowY + <f32>(row % ny) * per;
    const k0 = max<i32>(0, <i32>Mathf.floor(z0));
    const k1 = min<i32>(wz, <i32>Mathf.ceil(z0 + per));
    const j0 = max<i32>(0, <i32>Mathf.floor(y0));
    const j1 = min<i32>(wy, <i32>Mathf.ceil(y0 + per));
    let to = out + (<usize>(row * nx) << 4);
    for (let n = 0; n < nx; ++n, to += 16) {
      const x0 = lowX + <f32>n * per;
      const i0 = max<i32>(0, <i32>Mathf.floor(x0));
      const i1 = min<i32>(wx, <i32>Mathf.ceil(x0 + per));
      let weight: f32 = 0;
      let a: f32 = 0;
      let b: f32 = 0;
      for (let k = k0; k < k1; ++k) {
        const cz = min<f32>(<f32>(k + 1), z0 + per) - max<f32>(<f32>k, z0);
        for (let j = j0; j < j1; ++j) {
          const cyz = cz * (min<f32>(<f32>(j + 1), y0 + per) - max<f32>(<f32>j, y0));
          const line = first + k * sp + j * sx;
          for (let i = i0; i < i1; ++i) {
            const at = <usize>(line + i);
            if (load<u8>(status + at) == 0) continue;
            const c = cyz * (min<f32>(<f32>(i + 1), x0 + per) - max<f32>(<f32>i, x0));
            weight += c;
            a += c * (load<f32>(fieldA + (at << 2)) - nothingA);
            b += c * (load<f32>(fieldB + (at << 2)) - nothingB);
          }
        }
      }
      const over: f32 = weight > 0 ? <f32>1 / weight : 0;
      v128.store(to, f32x4(a * over, b * over, weight, 0));
    }
  }
}

/** Fluid voxels of the active tiles: two fields become themselves x a factor + an amount, above what they hold where nothing is. Lattice: factor, amount of each. */
export function holdCells(
  begin: i32,
  end: i32,
  ctx: usize,
  frame: usize,
  change: usize,
  fieldA: usize,
  nothingA: f32,
  fieldB: usize,
  nothingB: f32,
): void {
  const sx = load<i32>(ctx, SX);
  const sp = load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  const scale = load<f32>(frame, 12);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = load<i32>(rec, T_BASE);
    for (let row = 0; row < 64; ++row) {
      const z = (<f32>(load<i32>(rec, T_K) + (row >> 3)) + <f32>0.5) * scale + load<f32>(frame, 24);
      const y = (<f32>(load<i32>(rec, T_J) + (row & 7)) + <f32>0.5) * scale + load<f32>(frame, 20);
      for (let i = 0; i < 8; ++i) {
        const at = <usize>(base + (row >> 3) * sp + (row & 7) * sx + i);
        if (load<u8>(status + at) != 1) continue;
        const x = (<f32>(load<i32>(rec, T_I) + i) + <f32>0.5) * scale + load<f32>(frame, 16);
        locatePoint(frame, x, y, z);
        const c = fetch(change);
        const a = fieldA + (at << 2);
        store<f32>(a, nothingA + (load<f32>(a) - nothingA) * f32x4.extract_lane(c, 0) + f32x4.extract_lane(c, 1));
        const b = fieldB + (at << 2);
        if (fieldB != fieldA) store<f32>(b, nothingB + (load<f32>(b) - nothingB) * f32x4.extract_lane(c, 2) + f32x4.extract_lane(c, 3));
      }
    }
  }
}

/** Each item: a row of points. Mean velocity (of the two faces of each voxel) over the fluid voxels that a coarse voxel covers; fourth word: how many there are. */
export function averageVelocity(
  begin: i32,
  end: i32,
  ctx: usize,
  frame: usize,
  window: usize,
  per: f32,
  lowX: f32,
  lowY: f32,
  lowZ: f32,
  u: usize,
  v: usize,
  w: usize,
  out: usize,
): void {
  const nx = load<i32>(frame);
  const ny = load<i32>(frame, 4);
  const sx = load<i32>(ctx, SX);
  const sp = load<i32>(ctx, SP);
  const bx = <usize>sx << 2;
  const bp = <usize>sp << 2;
  const status = <usize>load<u32>(ctx, STATUS);
  const first = load<i32>(window);
  for (let row = begin; row < end; ++row) {
    const z0 = lowZ + <f32>(row / ny) * per;
    const y0 = lowY + <f32>(row % ny) * per;
    const k0 = max<i32>(0, <i32>Mathf.floor(z0));
    const k1 = min<i32>(load<i32>(window, 12), <i32>Mathf.ceil(z0 + per));
    const j0 = max<i32>(0, <i32>Mathf.floor(y0));
    const j1 = min<i32>(load<i32>(window, 8), <i32>Mathf.ceil(y0 + per));
    let to = out + (<usize>(row * nx) << 4);
    for (let n = 0; n < nx; ++n, to += 16) {
      const x0 = lowX + <f32>n * per;
      const i0 = max<i32>(0, <i32>Mathf.floor(x0));
      const i1 = min<i32>(load<i32>(window, 4), <i32>Mathf.ceil(x0 + per));
      let weight: f32 = 0;
      let a: f32 = 0;
      let b: f32 = 0;
      let c: f32 = 0;
      for (let k = k0; k < k1; ++k) {
        const cz = min<f32>(<f32>(k + 1), z0 + per) - max<f32>(<f32>k, z0);
        for (let j = j0; j < j1; ++j) {
          const cyz = cz * (min<f32>(<f32>(j + 1), y0 + per) - max<f32>(<f32>j, y0));
          const line = first + k * sp + j * sx;
          for (let i = i0; i < i1; ++i) {
            const at = <usize>(line + i);
            if (load<u8>(status + at) != 1) continue;
            const part = cyz * (min<f32>(<f32>(i + 1), x0 + per) - max<f32>(<f32>i, x0));
            const o = at << 2;
            weight += part;
            a += part * (load<f32>(u + o) + load<f32>(u + o + 4));
            b += part * (load<f32>(v + o) + load<f32>(v + o + bx));
            c += part * (load<f32>(w + o) + load<f32>(w + o + bp));
          }
        }
      }
      const over: f32 = weight > 0 ? <f32>0.5 / weight : 0;
      v128.store(to, f32x4(a * over, b * over, c * over, weight));
    }
  }
}

/** Low faces of the active voxels: adds a part of a lattice's vectors. */
export function drawFaces(begin: i32, end: i32, ctx: usize, frame: usize, change: usize, part: f32, u: usize, v: usize, w: usize): void {
  const sx = load<i32>(ctx, SX);
  const sp = load<i32>(ctx, SP);
  const scale = load<f32>(frame, 12);
  const half = <f32>0.5 * scale;
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = load<i32>(rec, T_BASE);
    for (let row = 0; row < 64; ++row) {
      const z = <f32>(load<i32>(rec, T_K) + (row >> 3)) * scale + load<f32>(frame, 24);
      const y = <f32>(load<i32>(rec, T_J) + (row & 7)) * scale + load<f32>(frame, 20);
      let o = <usize>(base + (row >> 3) * sp + (row & 7) * sx) << 2;
      for (let i = 0; i < 8; ++i, o += 4) {
        const x = <f32>(load<i32>(rec, T_I) + i) * scale + load<f32>(frame, 16);
        locatePoint(frame, x, y + half, z + half);
        store<f32>(u + o, load<f32>(u + o) + part * f32x4.extract_lane(fetch(change), 0));
        locatePoint(frame, x + half, y, z + half);
        store<f32>(v + o, load<f32>(v + o) + part * f32x4.extract_lane(fetch(change), 1));
        locatePoint(frame, x + half, y + half, z);
        store<f32>(w + o, load<f32>(w + o) + part * f32x4.extract_lane(fetch(change), 2));
      }
    }
  }
}
