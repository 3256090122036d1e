import { describe, expect, it } from 'vitest';
import type { Vec3 } from '#core/math';
import {
  type MeshShape,
  type PlainShape,
  type Shape,
  bodyBand,
  bodyDistance,
  isAnimated,
  pinned,
  poseOf,
  rigidVelocity,
  sameShape,
  shapeBounds,
  shapeDistance,
  shapeTravel,
  throughPicture,
  turnedBox,
  union,
} from '.';

/** About x, then y, then z, one plane rotation after the other: the oracle of every turn here. */
function turn([ax, ay, az]: Vec3, [x, y, z]: Vec3): Vec3 {
  const rad = Math.PI / 180;
  const plane = (a: number, u: number, v: number): [number, number] => [
    u * Math.cos(a * rad) - v * Math.sin(a * rad),
    u * Math.sin(a * rad) + v * Math.cos(a * rad),
  ];
  const [y1, z1] = plane(ax, y, z);
  const [z2, x2] = plane(ay, z1, x);
  const [x3, y3] = plane(az, x2, y1);
  return [x3, y3, z2];
}
const add = (a: Vec3, b: Vec3): Vec3 => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
const close = (a: readonly number[], b: readonly number[], digits = 9): void => {
  a.forEach((v, n) => {
    expect(v).toBeCloseTo(b[n]!, digits);
  });
};

const turned: Vec3 = [25, -40, 70];
const box: PlainShape & { kind: 'box' } = { kind: 'box', centre: [1, -2, 0.5], size: [2, 1, 4], rotation: turned };
const cylinder: PlainShape & { kind: 'cylinder' } = { kind: 'cylinder', centre: [-1, 0.5, 2], radius: 0.8, height: 3, rotation: turned };
const ball: PlainShape & { kind: 'ball' } = { kind: 'ball', centre: [0.3, 0.2, 0.1], radius: 0.7 };
const mesh: MeshShape = {
  kind: 'mesh',
  geometry: 'x',
  extent: { min: [-1, -2, -3], max: [3, 2, 1] },
  seconds: 2,
  centre: [5, 6, 7],
  rotation: [0, 90, 0],
  scale: 0.5,
  starts: null,
  pace: 1,
  pointRadius: null,
  pick: 'all',
  above: 0,
  insideOut: false,
};

/** Points all over a shape's surface, in the world. */
function surfaceOf(shape: PlainShape, steps: number): Vec3[] {
  const points: Vec3[] = [];
  const put = (p: Vec3): void => {
    points.push(add(shape.centre, shape.kind === 'ball' ? p : turn(shape.rotation, p)));
  };
  for (let i = 0; i <= steps; i++) {
    for (let j = 0; j <= steps; j++) {
      const [u, v] = [i / steps, j / steps];
      if (shape.kind === 'ball') {
        const [theta, phi] = [Math.PI * u, 2 * Math.PI * v];
        const r = shape.radius;
        put([r * Math.sin(theta) * Math.cos(phi), r * Math.cos(theta), r * Math.sin(theta) * Math.sin(phi)]);
      } else if (shape.kind === 'box') {
        const s = shape.size;
        for (const side of [-0.5, 0.5]) {
          put([side * s[0], (u - 0.5) * s[1], (v - 0.5) * s[2]]);
          put([(u - 0.5) * s[0], side * s[1], (v - 0.5) * s[2]]);
          put([(u - 0.5) * s[0], (v - 0.5) * s[1], side * s[2]]);
        }
      } else {
        const a = 2 * Math.PI * u;
        const [c, s] = [shape.radius * Math.cos(a), shape.radius * Math.sin(a)];
        put([c, (v - 0.5) * shape.height, s]);
        for (const side of [-0.5, 0.5]) put([v * c, side * shape.height, v * s]);
      }
    }
  }
  return points;
}

describe('signed distances', () => {
  it.each([
    ['box', box],
    ['cylinder', cylinder],
    ['ball', ball],
  ] as const)('of a turned %s are those to the nearest of many points of its surface', (_name, shape) => {
    const surface = surfaceOf(shape, 160);
    const distance = shapeDistance(shape);
    let inside = 0;
    for (let n = 0; n < 60; n++) {
      // A fixed walk through the space around it.
      const p = add(
        shape.centre,
        [4.1 * Math.sin(n * 1.7), 3.3 * Math.sin(n * 2.3 + 1), 4.7 * Math.sin(n * 3.1 + 2)].map(
          (v) => v * ((n % 5) / 4),
        ) as unknown as Vec3,
      );
      const nearest = surface.reduce((least, s) => Math.min(least, Math.hypot(s[0] - p[0], s[1] - p[1], s[2] - p[2])), Infinity);
      const d = distance(...p);
      if (d < 0) inside++;
      expect(Math.abs(Math.abs(d) - nearest)).toBeLessThan(0.03);
    }
    expect(inside).toBeGreaterThan(5);
    expect(inside).toBeLessThan(55);
  });

  it('are negative inside and positive outside', () => {
    for (const shape of [box, cylinder, ball]) {
      expect(shapeDistance(shape)(...shape.centre)).toBeLessThan(0);
      expect(shapeDistance(shape)(...add(shape.centre, [9, 0, 0]))).toBeGreaterThan(0);
    }
  });

  it('of several are the least; of none there is no end', () => {
    const [a, b] = [shapeDistance(box), shapeDistance(ball)];
    for (const p of [box.centre, ball.centre, [3, 3, 3]] as Vec3[]) expect(union([a, b])(...p)).toBe(Math.min(a(...p), b(...p)));
    expect(union([])(0, 0, 0)).toBe(Infinity);
  });
});

describe('boxes around shapes', () => {
  it.each([
    ['box', box],
    ['ball', ball],
  ] as const)('touch the outermost points of a %s on every side', (_name, shape) => {
    const points = surfaceOf(shape, 160);
    const { min, max } = shapeBounds(shape);
    for (const a of [0, 1, 2] as const) {
      expect(min[a]).toBeCloseTo(
        points.reduce((v, p) => Math.min(v, p[a]), Infinity),
        2,
      );
      expect(max[a]).toBeCloseTo(
        points.reduce((v, p) => Math.max(v, p[a]), -Infinity),
        2,
      );
    }
  });

  it('hold all of a turned cylinder, and no more than its box needs', () => {
    const { min, max } = shapeBounds(cylinder);
    for (const p of surfaceOf(cylinder, 60)) {
      for (const a of [0, 1, 2] as const) {
        expect(p[a]).toBeGreaterThanOrEqual(min[a] - 1e-9);
        expect(p[a]).toBeLessThanOrEqual(max[a] + 1e-9);
      }
    }
    close(max, turnedBox({ min: [-0.8, -1.5, -0.8], max: [0.8, 1.5, 0.8] }, { ...cylinder, scale: 1 }).max);
  });

  it('of imported geometry are scaled, turned and put where it stands', () => {
    // A quarter turn about y takes z to x and x to -z.
    expect(shapeBounds(mesh)).toEqual({
      min: [3.5, 5, 5.5].map((v) => expect.closeTo(v, 9) as number),
      max: [5.5, 7, 7.5].map((v) => expect.closeTo(v, 9) as number),
    });
  });
});

describe('shapes that move', () => {
  it('carry their material to where it is after the step', () => {
    const to: Shape = { ...box, centre: [1.5, -2.2, 0.9], rotation: [40, -10, 95] };
    const velocity = rigidVelocity(box, to, 0.25);
    for (const local of [
      [0, 0, 0],
      [1, 0.5, -2],
      [-0.7, 0.3, 1.1],
    ] as Vec3[]) {
      const [was, is] = [add(box.centre, turn(box.rotation, local)), add(to.centre, turn(to.rotation, local))];
      close(velocity(...was), [(is[0] - was[0]) / 0.25, (is[1] - was[1]) / 0.25, (is[2] - was[2]) / 0.25]);
    }
  });

  it('stretch evenly where they grow', () => {
    close(rigidVelocity(ball, { ...ball, radius: 1.4 }, 0.5)(1, 0.2, 0.1), [1.4, 0, 0]);
    const tall = { ...cylinder, rotation: [0, 0, 0] as Vec3, height: 6 };
    close(rigidVelocity({ ...tall, height: 3 }, tall, 1)(-1, 1.5, 2), [0, 1, 0]);
    const wide = { ...box, rotation: [0, 0, 0] as Vec3 };
    close(rigidVelocity(wide, { ...wide, size: [4, 1, 4] }, 1)(1.5, -2, 0.5), [0.5, 0, 0]);
  });

  it('travel as far as their fastest corner', () => {
    expect(shapeTravel(box, box)).toBe(0);
    expect(shapeTravel(ball, { ...ball, centre: [0.3, 3.2, 4.1] })).toBeCloseTo(5, 9);
    // A half turn about y: its corners go through twice their distance from the axis.
    const flat: Shape = { ...box, rotation: [0, 0, 0] };
    expect(shapeTravel(flat, { ...flat, rotation: [0, 180, 0] })).toBeCloseTo(2 * Math.hypot(1, 2), 9);
  });

  it('a door turns about its hinge, which stays', () => {
    const hinge: Vec3 = [0, -2, 0.5];
    const rest: Shape = { ...box, rotation: [0, 0, 0] };
    const open = pinned(rest, { ...rest, rotation: [0, 90, 0] }, hinge);
    // One metre along x becomes one metre along -z.
    close(open.centre, [0, -2, -0.5]);
    expect(pinned(rest, { ...rest, rotation: [0, 90, 0] }, null).centre).toBe(rest.centre);
    expect(pinned(ball, { ...ball, radius: 2 }, hinge)).toEqual({ ...ball, radius: 2 });
  });

  it('have their animation begin where it is told to, at its pace', () => {
    const at = (changes: Partial<MeshShape>, time: number): number => poseOf({ ...mesh, ...changes }, time, 11, 10).animation;
    expect(at({}, 1.5)).toBe(1.5);
    expect(at({ pace: 2 }, 1.5)).toBe(3);
    // Frame 16 is half a second after frame 11.
    expect(at({ starts: 16, pace: 2 }, 1.5)).toBe(2);
    expect(at({ starts: 16 }, 0)).toBe(-0.5);
    expect([mesh, { ...mesh, seconds: 0 }, { ...mesh, pace: 0 }, box].map(isAnimated)).toEqual([true, false, false, false]);
  });

  it('are the same when every number of theirs is', () => {
    expect(sameShape(box, { ...box })).toBe(true);
    expect(sameShape(box, { ...box, size: [2, 1, 4.0001] })).toBe(false);
  });
});

describe('what matter meets of a solid', () => {
  const surface = (x: number): number => Math.abs(x) - 1;
  const at = (body: Parameters<typeof bodyDistance>[1], x: number): number => bodyDistance(surface, body)(x, 0, 0);

  it('all of it, grown or shrunk', () => {
    expect(at({ kind: 'filled', thickness: 0.2, offset: 0 }, 0)).toBe(-1);
    expect(at({ kind: 'filled', thickness: 0.2, offset: 0.25 }, 1.25)).toBeCloseTo(0, 12);
    expect(at({ kind: 'filled', thickness: 0.2, offset: -0.25 }, 0.75)).toBeCloseTo(0, 12);
  });

  it('a wall of its thickness inwards, with room inside', () => {
    const hollow = { kind: 'hollow', thickness: 0.2, offset: 0 } as const;
    expect([0, 0.7, 0.9, 1.1].map((x) => Math.sign(at(hollow, x)))).toEqual([1, 1, -1, 1]);
    expect(at(hollow, 0.8)).toBeCloseTo(0, 12);
    expect(at(hollow, 1)).toBeCloseTo(0, 12);
  });

  it('a skin, half of it on either side', () => {
    const thin = { kind: 'thin', thickness: 0.2, offset: 0.05 } as const;
    expect(at(thin, 1)).toBeCloseTo(-0.15, 12);
    expect(at(thin, 0.85)).toBeCloseTo(0, 12);
    expect(at(thin, 1.15)).toBeCloseTo(0, 12);
  });

  it('its distance is exact as far as it is asked for', () => {
    expect(bodyBand({ kind: 'filled', thickness: 0.2, offset: -0.3 })).toBe(0.3);
    expect(bodyBand({ kind: 'hollow', thickness: 0.2, offset: 0.3 })).toBe(0.5);
  });
});

describe('a picture that is thrown through a shape', () => {
  // Two columns, two rows: only the upper left is bright.
  const picture = { width: 2, height: 2, values: Float32Array.of(1, 0, 0, 0) };
  const flat: Shape = { kind: 'box', centre: [0, 0, 0], size: [4, 4, 4], rotation: [0, 0, 0] };
  const seen = (from: 'front' | 'right' | 'above', shape: Shape = flat, inverted = false) =>
    throughPicture({ picture: '', from, inverted }, picture, shape, shapeBounds(shape));

  it('from the front its left is left and its upper edge is up, at every depth', () => {
    for (const z of [-1.9, 0, 1.9]) expect([seen('front')(-1, 1, z), seen('front')(1, 1, z), seen('front')(-1, -1, z)]).toEqual([1, 0, 0]);
  });

  it('from the right its left is in front; from above its upper edge is at the back', () => {
    expect([seen('right')(0, 1, 1), seen('right')(0, 1, -1)]).toEqual([1, 0]);
    expect([seen('above')(-1, 0, -1), seen('above')(-1, 0, 1)]).toEqual([1, 0]);
  });

  it('is bilinear between its pixels, goes on beyond them, and can be inverted', () => {
    expect(seen('front')(0, 1, 0)).toBeCloseTo(0.5, 12);
    expect(seen('front')(0, 0, 0)).toBeCloseTo(0.25, 12);
    expect(seen('front')(-50, 50, 0)).toBe(1);
    expect(seen('front', flat, true)(-1, 1, 0)).toBe(0);
  });

  it('turns with its shape', () => {
    const about: Shape = { ...flat, rotation: [0, 0, 90] };
    // A quarter turn about z takes the upper left corner to the lower left.
    expect([seen('front', about)(-1, -1, 0), seen('front', about)(-1, 1, 0)].map((v) => Number(v.toFixed(9)))).toEqual([1, 0]);
  });
});
