// Emission noise: octaves of gradient noise in four dimensions (Perlin 2002, improved noise), four points side by side.
// The same pattern as fractalNoise of src/core/math/noise.ts, in single precision.

/** Points of an item; the arrays are padded to whole items. */
const POINTS: i32 = 64;

@inline
function fade(t: v128): v128 {
  const a = f32x4.sub(f32x4.mul(t, f32x4.splat(6)), f32x4.splat(15));
  const b = f32x4.add(f32x4.mul(t, a), f32x4.splat(10));
  return f32x4.mul(f32x4.mul(t, t), f32x4.mul(t, b));
}

@inline
function lerp(a: v128, b: v128, t: v128): v128 {
  return f32x4.add(a, f32x4.mul(f32x4.sub(b, a), t));
}

/** One of 32 gradients at a lattice point of hash input h: three of the four components +-1, one 0. */
@inline
function corner(h0: v128, x: v128, y: v128, z: v128, t: v128): v128 {
  let h = i32x4.mul(v128.xor(h0, i32x4.shr_u(h0, 16)), i32x4.splat(0x85ebca6b));
  h = i32x4.mul(v128.xor(h, i32x4.shr_u(h, 13)), i32x4.splat(0xc2b2ae35));
  h = v128.xor(h, i32x4.shr_u(h, 16));
  const zero = v128.and(i32x4.shr_u(h, 3), i32x4.splat(3));
  const a = v128.bitselect(y, x, i32x4.eq(zero, i32x4.splat(0)));
  const b = v128.bitselect(z, y, i32x4.lt_s(zero, i32x4.splat(2)));
  const c = v128.bitselect(z, t, i32x4.eq(zero, i32x4.splat(3)));
  const sign = i32x4.splat(0x80000000);
  const sa = v128.xor(a, i32x4.shl(h, 31));
  const sb = v128.xor(b, v128.and(i32x4.shl(h, 30), sign));
  const sc = v128.xor(c, v128.and(i32x4.shl(h, 29), sign));
  return f32x4.add(f32x4.add(sa, sb), sc);
}

/** Value of the lattice of one moment: `s` its seed, `t` how far after it. */
@inline
function layer(hx: v128, hy: v128, hz: v128, s: i32, xf: v128, yf: v128, zf: v128, t: v128, u: v128, v: v128, w: v128): v128 {
  const one = f32x4.splat(1);
  const x1 = f32x4.sub(xf, one);
  const y1 = f32x4.sub(yf, one);
  const z1 = f32x4.sub(zf, one);
  const hx1 = i32x4.add(hx, i32x4.splat(0x8da6b343));
  const hy0 = v128.xor(hy, i32x4.splat(s * 0x9e3779b1));
  const hy1 = v128.xor(i32x4.add(hy, i32x4.splat(0xd8163841)), i32x4.splat(s * 0x9e3779b1));
  const hz1 = i32x4.add(hz, i32x4.splat(0xcb1ab31f));
  const p00 = v128.xor(hy0, hz);
  const p10 = v128.xor(hy1, hz);
  const p01 = v128.xor(hy0, hz1);
  const p11 = v128.xor(hy1, hz1);
  const low = lerp(
    lerp(corner(v128.xor(hx, p00), xf, yf, zf, t), corner(v128.xor(hx1, p00), x1, yf, zf, t), u),
    lerp(corner(v128.xor(hx, p10), xf, y1, zf, t), corner(v128.xor(hx1, p10), x1, y1, zf, t), u),
    v,
  );
  const high = lerp(
    lerp(corner(v128.xor(hx, p01), xf, yf, z1, t), corner(v128.xor(hx1, p01), x1, yf, z1, t), u),
    lerp(corner(v128.xor(hx, p11), xf, y1, z1, t), corner(v128.xor(hx1, p11), x1, y1, z1, t), u),
    v,
  );
  return lerp(low, high, w);
}

/**
 * How much of a source's noise lets through at points (x, y, z float32 each, in turn), into `out` (one float32 each): 1 - amount + amount x the mean over
 * `moments` of twice 0.5 + 0.9 noise, held to 0..1. `times`: for each moment and octave the lattice's whole time (i32) and the part after it (float32).
 * Items of 64 points.
 */
export function emissionNoise(
  begin: i32,
  end: i32,
  points: usize,
  out: usize,
  times: usize,
  moments: i32,
  octaves: i32,
  size: f32,
  seed: i32,
  amount: f32,
): void {
  const half = f32x4.splat(0.5);
  const one = f32x4.splat(1);
  const nought = f32x4.splat(0);
  let total: f32 = 0;
  for (let o = 0, weight: f32 = 1; o < octaves; ++o, weight *= 0.5) total += weight;
  const gain = f32x4.splat(0.9 / total);
  for (let n = begin * POINTS; n < end * POINTS; n += 4) {
    const at = points + <usize>n * 12;
    const a = v128.load(at);
    const b = v128.load(at, 16);
    const c = v128.load(at, 32);
    const px = v128.shuffle<f32>(v128.shuffle<f32>(a, b, 0, 3, 6, 6), c, 0, 1, 2, 5);
    const py = v128.shuffle<f32>(v128.shuffle<f32>(a, b, 1, 4, 7, 7), c, 0, 1, 2, 6);
    const pz = v128.shuffle<f32>(v128.shuffle<f32>(a, b, 2, 5, 5, 5), c, 0, 1, 4, 7);
    let sum = nought;
    for (let m = 0; m < moments; ++m) {
      let value = nought;
      let scale: f32 = 1 / size;
      let weight: f32 = 1;
      for (let o = 0; o < octaves; ++o) {
        const time = times + (<usize>(m * octaves + o) << 3);
        const ti = load<i32>(time);
        const tf = load<f32>(time, 4);
        const k = f32x4.splat(scale);
        const x = f32x4.mul(px, k);
        const y = f32x4.mul(py, k);
        const z = f32x4.mul(pz, k);
        const fx = f32x4.floor(x);
        const fy = f32x4.floor(y);
        const fz = f32x4.floor(z);
        const xf = f32x4.sub(x, fx);
        const yf = f32x4.sub(y, fy);
        const zf = f32x4.sub(z, fz);
        const u = fade(xf);
        const v = fade(yf);
        const w = fade(zf);
        const hx = i32x4.mul(i32x4.trunc_sat_f32x4_s(fx), i32x4.splat(0x8da6b343));
        const hy = i32x4.mul(i32x4.trunc_sat_f32x4_s(fy), i32x4.splat(0xd8163841));
        const hz = i32x4.mul(i32x4.trunc_sat_f32x4_s(fz), i32x4.splat(0xcb1ab31f));
        const s = seed + o * 101 + ti * 7919;
        const before = layer(hx, hy, hz, s, xf, yf, zf, f32x4.splat(tf), u, v, w);
        const after = layer(hx, hy, hz, s + 7919, xf, yf, zf, f32x4.splat(tf - 1), u, v, w);
        value = f32x4.add(value, f32x4.mul(f32x4.splat(weight), lerp(before, after, fade(f32x4.splat(tf)))));
        scale *= 2;
        weight *= 0.5;
      }
      sum = f32x4.add(sum, f32x4.min(one, f32x4.max(nought, f32x4.add(half, f32x4.mul(gain, value)))));
    }
    const through = f32x4.mul(sum, f32x4.splat((2 * amount) / <f32>moments));
    v128.store(out + (<usize>n << 2), f32x4.add(f32x4.splat(1 - amount), through));
  }
}
