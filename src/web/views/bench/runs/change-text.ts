import type { DetailedPrediction } from '#core/cost';

const factor = (to: number, from: number): string | null => {
  const f = to / from;
  if (!Number.isFinite(f) || Math.abs(f - 1) < 0.05) return null;
  return `× ${f >= 10 ? f.toFixed(0) : f < 0.1 ? f.toPrecision(1) : f.toFixed(1)}`;
};

/** `time × 2.4, memory × 2.2`: what a change does to the cost; `same cost` when nothing to speak of. */
export function changeText(from: DetailedPrediction, to: DetailedPrediction): string {
  const parts = [
    ['time', to.time && from.time ? factor(to.time.likely, from.time.likely) : factor(to.voxels.likely, from.voxels.likely)] as const,
    ['memory', factor(to.memory.likely, from.memory.likely)] as const,
    ['disk', factor(to.disk.likely, from.disk.likely)] as const,
  ].filter((p) => p[1] !== null);
  return parts.length === 0 ? 'same cost' : parts.map(([name, f]) => `${name} ${String(f)}`).join(', ');
}

/** The most telling part of it, for a tile: `time × 2.4`. */
export function changeShort(from: DetailedPrediction, to: DetailedPrediction): string | null {
  const first = changeText(from, to).split(', ')[0] ?? null;
  return first === 'same cost' ? null : first;
}
