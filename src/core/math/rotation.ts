import type { Vec3 } from './vec3';

/** Row-major 3x3 rotation, local to world. */
export type Rotation = readonly [number, number, number, number, number, number, number, number, number];

/** Turns about x, then y, then z (world axes), in degrees. */
export function rotationFromDegrees(degrees: Vec3): Rotation {
  const [a, b, c] = degrees.map((d) => (d * Math.PI) / 180) as [number, number, number];
  const [sa, ca, sb, cb, sc, cc] = [Math.sin(a), Math.cos(a), Math.sin(b), Math.cos(b), Math.sin(c), Math.cos(c)];
  return [
    cc * cb,
    cc * sb * sa - sc * ca,
    cc * sb * ca + sc * sa,
    sc * cb,
    sc * sb * sa + cc * ca,
    sc * sb * ca - cc * sa,
    -sb,
    cb * sa,
    cb * ca,
  ];
}

/** World to local. */
export const unrotate = (r: Rotation, v: Vec3): Vec3 => [
  r[0] * v[0] + r[3] * v[1] + r[6] * v[2],
  r[1] * v[0] + r[4] * v[1] + r[7] * v[2],
  r[2] * v[0] + r[5] * v[1] + r[8] * v[2],
];

/** Local to world. */
export const rotate = (r: Rotation, v: Vec3): Vec3 => [
  r[0] * v[0] + r[1] * v[1] + r[2] * v[2],
  r[3] * v[0] + r[4] * v[1] + r[5] * v[2],
  r[6] * v[0] + r[7] * v[1] + r[8] * v[2],
];
