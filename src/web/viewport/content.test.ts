import { describe, expect, it } from 'vitest';
import type { PointsPreview, Preview } from '#core/formats';
import type { PlainShape } from '#core/geometry';
import { contentOf } from './content';
import type { StageScene } from './stage';

const pose = (shape: PlainShape) => ({ shape, animation: 0 });
const scene = (over: Partial<StageScene> = {}): StageScene => ({
  solids: [],
  sources: [],
  regions: [],
  directions: [],
  limit: { min: [-50, 0, -50], max: [50, 50, 50] },
  beside: [],
  ...over,
});
/** 8 x 8 x 8 voxels of a preview, two of the solve's each, from (10, 0, 0) on; the ones given are full. */
const preview = (full: readonly (readonly [number, number, number])[], byte = 200): Preview => {
  const data = new Uint8Array(512);
  for (const [i, j, k] of full) data[(k * 8 + j) * 8 + i] = byte;
  return { size: [8, 8, 8], origin: [10, 0, 0], step: 2, low: 0, high: 1, components: 1, data };
};
const volume = (p: Preview, channel: 'density' | 'vel' = 'density') => ({ preview: p, channel, voxelSize: 0.1, background: 0 }) as const;
const rounded = (box: ReturnType<typeof contentOf>) => box && [...box.min, ...box.max].map((v) => Math.round(v * 1000) / 1000);

describe('what there is to see', () => {
  it('is where the voxels hold something, not their whole window, and much less the limit box', () => {
    const full = [
      [1, 0, 2],
      [3, 4, 2],
    ] as const;
    expect(rounded(contentOf({ scene: scene(), volumes: [volume(preview(full))], points: null, mesh: null }))).toEqual([
      1.2, 0, 0.4, 1.8, 1, 0.6,
    ]);
    // Of a speed a byte of nought may be wind.
    expect(rounded(contentOf({ scene: scene(), volumes: [volume(preview(full), 'vel')], points: null, mesh: null }))).toEqual([
      1, 0, 0, 2.6, 1.6, 1.6,
    ]);
  });

  it('is nothing where the voxels are empty or as good as empty', () => {
    for (const p of [preview([]), preview([[1, 1, 1]], 2)])
      expect(contentOf({ scene: scene(), volumes: [volume(p)], points: null, mesh: null })).toBeNull();
    const none = { min: [0, 0, 0], max: [0, 0, 0], count: 0 } as unknown as PointsPreview;
    expect(contentOf({ scene: scene(), volumes: [], points: none, mesh: { min: [0, 0, 0], max: [0, 0, 0], vertices: 0 } })).toBeNull();
  });

  it('is particles and skins too, with the sources and the near part of solids', () => {
    const points = { min: [0, 0, 0], max: [2, 1, 2], count: 5 } as unknown as PointsPreview;
    const own = contentOf({ scene: scene(), volumes: [], points, mesh: { min: [-1, 0, 0], max: [1, 2, 1], vertices: 3 } });
    expect(rounded(own)).toEqual([-1, 0, 0, 2, 2, 2]);
    const floor = pose({ kind: 'box', centre: [0, -0.5, 0], size: [80, 1, 80], rotation: [0, 0, 0] });
    const far = pose({ kind: 'ball', centre: [30, 5, 0], radius: 1 });
    const vent = pose({ kind: 'ball', centre: [1, 1.2, 1], radius: 0.3 });
    const with_ = contentOf({ scene: scene({ solids: [floor, far], sources: [vent] }), volumes: [], points, mesh: null });
    // The floor counts as far as it lies near; the ball far away does not.
    expect(rounded(with_)).toEqual([-0.8, -0.4, -0.8, 2.8, 1.4, 2.8]);
  });
});
