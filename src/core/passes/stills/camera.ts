import type { Vec3 } from '#core/math';

export interface StillCamera {
  readonly position: Vec3;
  readonly target: Vec3;
  /** Upright angle, degrees. */
  readonly fieldOfView: number;
  /** Width over height. */
  readonly aspect: number;
}

/** Directions of a camera, and the tangent of half its upright angle. */
export function basisOf({ position, target, fieldOfView }: StillCamera): {
  readonly right: Vec3;
  readonly up: Vec3;
  readonly back: Vec3;
  readonly half: number;
} {
  const back = unit(minus(position, target));
  const right = unit(cross(Math.abs(back[1]) > 0.9999 ? [0, 0, -1] : [0, 1, 0], back));
  return { right, up: cross(back, right), back, half: Math.tan((fieldOfView * Math.PI) / 360) };
}

const minus = (a: Vec3, b: Vec3): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const cross = (a: Vec3, b: Vec3): Vec3 => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
export function unit(a: Vec3): Vec3 {
  const l = Math.hypot(...a) || 1;
  return [a[0] / l, a[1] / l, a[2] / l];
}
