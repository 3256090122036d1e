/** Less than this of an amount (above what it holds where nothing is) has no pattern that could be scaled. */
const LEAST = 1e-5;
/** A pattern is made no stronger than by this factor in a frame; what is missing then is new matter, and smooth. */
const MOST_GAIN = 1.5;

/**
 * How an amount has to change so that its mean over a base voxel goes over to the base's, by `part` of the way: by a factor where it has a pattern, which so
 * is kept, and by an amount where matter is new. Writes factor and amount of one of the two fields of a change lattice (4 floats a point, from `at`
 * on) from its mean (of the same layout as averageOver gives, from `from` on).
 */
export function changeTo(base: Float32Array, means: Float32Array, from: 0 | 1, part: number, change: Float32Array, at: 0 | 2): void {
  for (let n = 0, o = 0; n < base.length; n++, o += 4) {
    const mean = means[o + from] as number;
    const target = mean + part * ((base[n] as number) - mean);
    let factor = 1;
    if (Math.abs(mean) > LEAST) factor = Math.min(MOST_GAIN, Math.max(0, target / mean));
    change[o + at] = factor;
    change[o + at + 1] = target - factor * mean;
  }
}
