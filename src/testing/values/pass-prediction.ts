import type { PassPrediction } from '#core/passes';

/** What a pass is predicted to cost: so much, within a quarter. */
export function makePassPrediction(
  of: Partial<Pick<PassPrediction, 'seconds' | 'bytes' | 'memoryBytes' | 'from' | 'gives'>> = {},
): PassPrediction {
  const { seconds = 12, bytes = 3e6, memoryBytes = 1e8, from = 'its kind', gives = new Map() } = of;
  const within = (likely: number) => ({ low: likely / 1.25, likely, high: likely * 1.25 });
  const ranges = { time: within(seconds), disk: within(bytes), memory: within(memoryBytes) };
  return { seconds, bytes, memoryBytes, ranges, gives, from };
}
