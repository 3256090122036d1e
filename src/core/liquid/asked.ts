import { shotTime, timeOfFrame } from '#core/flow';
import { atMoment } from '#core/moves';
import type { LiquidOptions, LiquidSource } from './options';
import { streamOf } from './stream';

/** Cubic metres that a source that emits is asked for in each computed frame, by its settings alone. Frames are those from the pre-roll's first. */
export function askedByFrame(source: LiquidSource, options: LiquidOptions): Float64Array {
  const { firstFrame, lastFrame, preRoll, framesPerSecond: fps, firstFrameSolved, timeScale, followed } = options;
  const begin = firstFrame - preRoll;
  const moves = Object.keys(source.moves).length > 0;
  const still = source.act === 'emits' && !moves ? streamOf(source.shape, source).rate / fps : 0;
  return Float64Array.from({ length: Math.max(0, lastFrame - begin + 1) }, (_v, n) => {
    const frame = begin + n;
    if (source.act !== 'emits' || (n === 0 && !firstFrameSolved)) return 0;
    if (frame < (source.from ?? -Infinity) || frame > (source.to ?? Infinity)) return 0;
    if (!moves) return still;
    const time = shotTime(timeOfFrame(frame - 0.5, options), options);
    const moved = atMoment(source, source.moves, { time, firstFrame, framesPerSecond: fps * timeScale }, followed);
    const { rate } = streamOf(moved.shape, moved);
    return Number.isFinite(rate) && rate > 0 ? rate / fps : 0;
  });
}
