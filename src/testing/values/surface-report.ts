import type { SurfaceReport } from '#core/passes';

/** A frame of a skin that nothing is wrong with. */
export const makeSurfaceReport = (changes: Partial<SurfaceReport> = {}): SurfaceReport => ({
  frame: 1,
  seconds: { distance: 0.2, filters: 0.1 },
  totalSeconds: 0.5,
  memoryBytes: 2e7,
  elements: 300_000,
  kept: 20_000,
  particles: 50_000,
  outside: { count: 20, farthest: 0.002 },
  volume: { skin: 0.4, particles: 0.4 },
  shift: 0.001,
  thin: { particles: 200, before: 195, after: [194, 193], kept: 192 },
  eaten: null,
  roughness: 0.1,
  triangles: 20_000,
  vertices: 10_000,
  pieces: { pieces: 3, crumbs: 1 },
  contact: { vertices: 4000, gap: { mean: 1e-5, largest: 1e-3 }, overlap: { mean: 0, largest: 0 } },
  flicker: null,
  voxels: 250_000,
  without: 0,
  before: null,
  voxelSize: 0.016,
  ...changes,
});
