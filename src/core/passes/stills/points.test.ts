import { describe, expect, it } from 'vitest';
import { drawPoints } from './points';

const camera = { position: [0, 0, 10], target: [0, 0, 0], fieldOfView: 40, aspect: 2 } as const;
const [width, height] = [200, 100];
const cloud = (...places: (readonly [number, number, number])[]) => ({
  count: places.length,
  places: Float32Array.from(places.flatMap((p) => [...p, 0])),
  motions: new Float32Array(4 * places.length),
  ids: Uint32Array.from(places, (_p, n) => n),
});
const draw = (points: ReturnType<typeof cloud>, radius: number) => drawPoints(points, { camera, width, height, radius });
/** Pixels that are held back, all together. */
const covered = ({ pixels }: ReturnType<typeof draw>): number => {
  let sum = 0;
  for (let n = 3; n < pixels.length; n += 4) sum += 1 - pixels[n]!;
  return sum;
};
/** Area of a disc of a radius at a distance, in pixels: by the angle that it is seen at. */
const area = (radius: number, distance: number): number =>
  Math.PI * ((Math.tan(Math.atan(radius / distance)) / Math.tan((20 * Math.PI) / 180)) * (height / 2)) ** 2;

describe('particles in a picture', () => {
  it.each([1, 0.3, 0.05, 0.004])('a disc covers as much of it as it is seen large: radius %f m', (radius) => {
    expect(covered(draw(cloud([0.013, -0.021, 0]), radius)) / area(radius, 10)).toBeCloseTo(1, radius > 0.2 ? 1 : 0.3);
    const many = Array.from({ length: 100 }, (_v, n) => [((n % 10) - 4.5) * 0.6, (Math.floor(n / 10) - 4.5) * 0.6, 0] as const);
    if (radius < 0.2) expect(covered(draw(cloud(...many), radius)) / (100 * area(radius, 10))).toBeCloseTo(1, 1);
  });

  it('stands where it is: to the right is right, up is up, and nearer ones are larger', () => {
    const { pixels, samples } = draw(cloud([1.5, 1, 0]), 0.2);
    expect(samples).toBe(1);
    const scale = height / 2 / Math.tan((20 * Math.PI) / 180) / 10;
    const at = (x: number, y: number): number => 1 - pixels[4 * (y * width + x) + 3]!;
    expect(at(Math.floor(100 + 1.5 * scale), Math.floor(50 - scale))).toBe(1);
    expect(at(Math.floor(100 - 1.5 * scale), Math.floor(50 - scale))).toBe(0);
    expect(covered(draw(cloud([0, 0, 5]), 0.2)) / covered(draw(cloud([0, 0, 0]), 0.2))).toBeCloseTo(4, 0);
  });

  it('what lies behind another is hidden by it, in whatever order they are; what is behind or beside the camera is left out', () => {
    const front = covered(draw(cloud([0, 0, 2]), 0.5));
    for (const both of [cloud([0, 0, 2], [0, 0, 0]), cloud([0, 0, 0], [0, 0, 2])]) expect(covered(draw(both, 0.5))).toBeCloseTo(front, 4);
    expect(draw(cloud([0, 0, 12], [40, 0, 0], [0, -30, 0]), 0.5).samples).toBe(0);
    expect(draw(cloud(), 0.5)).toMatchObject({ samples: 0 });
  });

  it('a cloud of specks holds back light as it would by chance', () => {
    // Poisson: what comes through is exp(-covered).
    const n = 4000;
    const specks = Array.from({ length: n }, (_v, k) => {
      const [a, b] = [(k * 0.7548776662466927) % 1, (k * 0.5698402909980532) % 1];
      return [(a - 0.5) * 4, (b - 0.5) * 4, 0] as const;
    });
    const radius = 0.02;
    const one = area(radius, 10);
    const field = (4 / 10 / Math.tan((20 * Math.PI) / 180) / 2) * height;
    expect(covered(draw(cloud(...specks), radius)) / field ** 2).toBeCloseTo(1 - Math.exp((-n * one) / field ** 2), 1);
  });
});
