import { describe, expect, it } from 'vitest';
import type { SurfaceMesh } from './polygons';
import { type WaveOptions, addWaves, wavesOf } from './waves';

const options: WaveOptions = { height: 0.02, longest: 2, shortest: 0.2, wind: 4, towards: 0, depth: 50, churn: 1, seed: 3 };

/** A level lattice of points of 40 m a side, each moving by so much, looking up or elsewhere. */
function lattice(speed: number, up: number): SurfaceMesh {
  const side = 80;
  const vertices = side * side;
  const places = new Float32Array(3 * vertices);
  const normals = new Float32Array(3 * vertices);
  const velocities = new Float32Array(3 * vertices);
  for (let n = 0; n < vertices; n++) {
    places.set([(n % side) / 2, 1, Math.floor(n / side) / 2], 3 * n);
    normals.set([Math.sqrt(1 - up * up), up, 0], 3 * n);
    velocities[3 * n + 2] = speed;
  }
  return { vertices, places, normals, velocities, triangles: new Uint32Array(0), columns: [] };
}
const rms = (mesh: SurfaceMesh): number => {
  let sum = 0;
  for (let n = 0; n < mesh.vertices; n++) sum += (mesh.places[3 * n + 1]! - 1) ** 2;
  return Math.sqrt(sum / mesh.vertices);
};

describe('small waves', () => {
  it('are as high as they are asked to be, root mean square', () => {
    expect(rms(addWaves(lattice(0, 1), options, 0)) / options.height).toBeCloseTo(1, 1);
    expect(rms(addWaves(lattice(0, 1), { ...options, height: 0.1 }, 3)) / 0.1).toBeCloseTo(1, 1);
  });

  it('fade where it churns, and on what does not look up', () => {
    expect(rms(addWaves(lattice(0.5, 1), options, 0)) / options.height).toBeCloseTo(0.5, 1);
    expect(rms(addWaves(lattice(1.2, 1), options, 0))).toBe(0);
    expect(rms(addWaves(lattice(0, 0), options, 0))).toBe(0);
  });

  it('go as fast as their length and the depth say: w^2 = g k tanh(k d)', () => {
    for (const depth of [50, 0.05])
      for (const w of wavesOf({ ...options, depth })) {
        const k = Math.hypot(w.x, w.z);
        expect(2 * Math.PI).toBeGreaterThanOrEqual(k * 0.2 - 1e-9);
        expect(2 * Math.PI).toBeLessThanOrEqual(k * 2 + 1e-9);
        expect(w.speed ** 2 / (9.80665 * k * Math.tanh(k * depth))).toBeCloseTo(1, 6);
      }
  });

  it('run with the wind, and long ones need it', () => {
    const along = (o: WaveOptions): number =>
      wavesOf(o).reduce((s, w) => s + w.height ** 2 * (w.x / Math.hypot(w.x, w.z)), 0) / wavesOf(o).reduce((s, w) => s + w.height ** 2, 0);
    expect(along(options)).toBeGreaterThan(0.6);
    expect(along({ ...options, towards: 180 })).toBeLessThan(-0.6);
    const length = (o: WaveOptions): number => {
      const waves = wavesOf(o);
      return (
        waves.reduce((s, w) => s + (w.height ** 2 * 2 * Math.PI) / Math.hypot(w.x, w.z), 0) / waves.reduce((s, w) => s + w.height ** 2, 0)
      );
    };
    expect(length({ ...options, wind: 1 })).toBeLessThan(0.6 * length({ ...options, wind: 10 }));
  });

  it('turn the normals with their slope', () => {
    const made = addWaves(lattice(0, 1), options, 0);
    const flat = options.height / 1e6;
    let sum = 0;
    for (let n = 0; n < made.vertices; n++) {
      const [x, y, z] = [made.normals[3 * n]!, made.normals[3 * n + 1]!, made.normals[3 * n + 2]!];
      expect(Math.hypot(x, y, z)).toBeCloseTo(1, 5);
      sum += (x * x + z * z) / (y * y);
    }
    // The mean square of the slope is the sum of (a k)^2 / 2.
    const want = wavesOf(options).reduce((s, w) => s + (w.height ** 2 * (w.x ** 2 + w.z ** 2)) / 2, 0);
    expect(sum / made.vertices / want).toBeCloseTo(1, 0);
    const still = addWaves(lattice(0, 1), { ...options, height: flat }, 0);
    expect(still.normals[1]).toBeCloseTo(1, 4);
  });
});
