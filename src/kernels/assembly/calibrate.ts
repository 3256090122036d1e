// A fixed piece of work, timed beside a run: how fast is this machine just now? Half arithmetic, half memory.

/** Each item: one pass over n floats at p (n a multiple of 4). Returns the last sum, so that the work cannot be dropped. */
export function calibrate(begin: i32, end: i32, p: usize, n: i32): f64 {
  let total = f32x4.splat(0);
  for (let pass = begin; pass < end; ++pass) {
    for (let i = 0; i < n; i += 4) {
      const o = p + (<usize>i << 2);
      const v = f32x4.add(f32x4.mul(v128.load(o), f32x4.splat(0.999)), f32x4.splat(0.001));
      v128.store(o, v);
      total = f32x4.add(total, v);
    }
  }
  return <f64>f32x4.extract_lane(total, 0);
}
