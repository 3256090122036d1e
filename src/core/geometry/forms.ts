import { type Box3, type Distance, type MeshShape, type Shape, rigidVelocity, shapeBounds, shapeDistance, shapeTravel } from './shapes';
import type { Vec3 } from '#core/math';

/** A shape where it is at a moment, and how far its own animation is. */
export interface Pose {
  readonly shape: Shape;
  /** Seconds into its own animation. */
  readonly animation: number;
}

/** What a shape is asked for while a run goes on: closed forms, or an imported mesh turned into a signed distance (module mesh). */
export interface Form {
  distance(pose: Pose): Distance;
  bounds(pose: Pose): Box3;
  /** Velocity at a point of the material of `from` that takes it to `to` in `dt` seconds, m/s. */
  velocity(from: Pose, to: Pose, dt: number): (x: number, y: number, z: number) => Vec3;
  /** Of a cloud of balls: middles in the world (x, y, z each) and radii. Whoever covers voxels goes from ball to ball instead of through its box. */
  balls?(pose: Pose): { readonly middles: Float32Array; readonly radii: Float32Array };
  /** Metres that its fastest part goes. */
  travel(from: Pose, to: Pose): number;
}

/** Makes the form of an imported shape. `spacing`: metres between the samples of its distance; `band`: metres around its surface that must be exact. */
export type FormMaker = (shape: MeshShape, spacing: number, band: number) => Form;

const PLAIN: Form = {
  distance: ({ shape }) => (shape.kind === 'mesh' ? () => Infinity : shapeDistance(shape)),
  bounds: ({ shape }) => shapeBounds(shape),
  velocity: (from, to, dt) => rigidVelocity(from.shape, to.shape, dt),
  travel: (from, to) => shapeTravel(from.shape, to.shape),
};

export const formOf = (shape: Shape, maker: FormMaker, spacing: number, band: number): Form =>
  shape.kind === 'mesh' ? maker(shape, spacing, band) : PLAIN;

/** Where its own animation is at a moment of the shot. */
export const poseOf = (shape: Shape, time: number, firstFrame: number, framesPerSecond: number): Pose => ({
  shape,
  animation: shape.kind === 'mesh' ? (time - ((shape.starts ?? firstFrame) - firstFrame) / framesPerSecond) * shape.pace : 0,
});

/** Whether it changes its form by itself. */
export const isAnimated = (shape: Shape): boolean => shape.kind === 'mesh' && shape.seconds > 0 && shape.pace !== 0;

/** What matter meets of a solid: all of it, a wall with room inside, or a skin on both sides of its surface (open sheets). */
export type BodyKind = 'filled' | 'hollow' | 'thin';

export interface Body {
  readonly kind: BodyKind;
  /** Of the wall of a hollow or thin one, metres: inwards from the surface, or half on either side. */
  readonly thickness: number;
  /** Grows it (or shrinks it), metres. */
  readonly offset: number;
}

/** Distance of the body that matter meets, from the distance of its surface. */
export function bodyDistance(surface: Distance, { kind, thickness, offset }: Body): Distance {
  switch (kind) {
    case 'filled':
      return offset === 0 ? surface : (x, y, z) => surface(x, y, z) - offset;
    case 'hollow':
      return (x, y, z) => {
        const d = surface(x, y, z);
        return Math.max(d, -(d + thickness)) - offset;
      };
    case 'thin':
      return (x, y, z) => Math.abs(surface(x, y, z)) - thickness / 2 - offset;
  }
}

/** Metres around the surface in which a body's distance has to be exact. */
export const bodyBand = ({ kind, thickness, offset }: Body): number => Math.abs(offset) + (kind === 'filled' ? 0 : thickness);
