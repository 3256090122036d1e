import type { DetailBody } from './body';
import { type Lattice, pointsOf } from '../upscale';

/**
 * Strength of what is added at each point, m/s before the setting's factor: the base's own finest eddies there, or their mean where the matter is; nothing
 * outside of the region, and less the further a channel is from its value.
 */
export function whereOf(
  { settings, base }: DetailBody,
  { low, size }: Lattice,
  strength: Float32Array,
  density: Float32Array,
  channel: (name: string) => Float32Array | null,
): Float32Array {
  const { region } = settings;
  const out = Float32Array.from(strength);
  const points = pointsOf({ low, size });
  if (settings.where === 'even') {
    let [sum, weight] = [0, 0];
    for (let n = 0; n < points; n++) {
      const d = Math.max(0, density[n] as number);
      sum += d * (strength[n] as number) ** 2;
      weight += d;
    }
    out.fill(weight > 0 ? Math.sqrt(sum / weight) : 0);
  }
  if (settings.near !== 'none') {
    const values = channel(settings.near);
    const spread = Math.max(1e-6, settings.nearSpread);
    for (let n = 0; n < points; n++) {
      const off = ((values?.[n] ?? 0) - settings.nearValue) / spread;
      out[n] = (out[n] as number) * Math.exp(-0.5 * off * off);
    }
  }
  if (region) {
    // It fades over a base voxel: a jump of the strength would be a jet along it.
    let n = 0;
    for (let k = 0; k < size[2]; k++) {
      const z = depth((low[2] + k + 0.5) * base, region.min[2], region.max[2]);
      for (let j = 0; j < size[1]; j++) {
        const y = depth((low[1] + j + 0.5) * base, region.min[1], region.max[1]);
        for (let i = 0; i < size[0]; i++, n++) {
          const x = depth((low[0] + i + 0.5) * base, region.min[0], region.max[0]);
          out[n] = (out[n] as number) * Math.min(1, Math.max(0, Math.min(x, y, z) / (2 * base)));
        }
      }
    }
  }
  return out;
}

const depth = (v: number, low: number, high: number): number => Math.min(v - low, high - v);
