import { describe, expect, it } from 'vitest';
import type { Lattice } from './lattice';
import { movedFrom } from './moved';

const lattice: Lattice = { low: [-4, 0, 2], size: [40, 24, 24] };
const [nx, ny, nz] = lattice.size;
/** A ball of density 1 at a point of the lattice. */
const ball = (x: number, y: number, z: number, r = 5): Float32Array =>
  Float32Array.from({ length: nx * ny * nz }, (_v, n) =>
    Math.hypot((n % nx) - x, (Math.floor(n / nx) % ny) - y, Math.floor(n / nx / ny) - z) < r ? 1 : 0,
  );
const means = (density: Float32Array): Float32Array =>
  Float32Array.from({ length: 4 * density.length }, (_v, n) => (n % 4 === 0 ? density[n / 4]! : 9));

describe('how far matter has moved', () => {
  it('is nothing where it lies as it did', () => {
    expect(movedFrom(ball(12, 12, 12), means(ball(12, 12, 12)), lattice, 0.1)).toEqual({ density: 0, centre: 0, extent: 0 });
  });

  it('is the way of its centre and of its sides, in metres', () => {
    const moved = movedFrom(ball(12, 12, 12), means(ball(15, 12, 12)), lattice, 0.1)!;
    expect(moved.centre).toBeCloseTo(0.3, 6);
    expect(moved.extent).toBeCloseTo(0.3, 6);
    // Balls that meet no more differ by the root of two.
    expect(movedFrom(ball(8, 12, 12), means(ball(30, 12, 12)), lattice, 0.1)!.density).toBeCloseTo(Math.SQRT2, 6);
    // One that grew has its sides elsewhere and its centre where it was.
    const grown = movedFrom(ball(20, 12, 12), means(ball(20, 12, 12, 7)), lattice, 0.1)!;
    expect(grown.centre).toBeCloseTo(0, 6);
    expect(grown.extent).toBeCloseTo(0.2, 6);
  });

  it('counts where the most of it is', () => {
    // The same box, a third of it ten times as dense.
    const heavy = ball(20, 12, 12).map((d, n) => (n % nx > 21 ? 10 * d : d));
    const moved = movedFrom(ball(20, 12, 12), means(heavy), lattice, 0.1)!;
    expect(moved.extent).toBe(0);
    const x = (d: Float32Array): number => d.reduce((sum, v, n) => sum + v * (n % nx), 0) / d.reduce((sum, v) => sum + v, 0);
    expect(moved.centre).toBeCloseTo(0.1 * (x(heavy) - x(ball(20, 12, 12))), 5);
  });

  it('has no answer where there is no matter', () => {
    expect(movedFrom(new Float32Array(nx * ny * nz), means(ball(12, 12, 12)), lattice, 0.1)).toBeNull();
  });
});
