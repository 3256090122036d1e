import { rotate, rotationFromDegrees, type Vec3 } from '#core/math';
import { type PlainShape, type Shape, shapeBounds } from './shapes';

/**
 * Area of a shape's shadow along a direction of length 1, square metres: half of what its surface turns towards or away from it (Cauchy). Exact for closed forms; of an
 * imported one that of its box.
 */
export function crossSection(shape: Shape, direction: Vec3): number {
  if (shape.kind === 'mesh') {
    const { min, max } = shapeBounds(shape);
    return ofBox([max[0] - min[0], max[1] - min[1], max[2] - min[2]], direction);
  }
  if (shape.kind === 'ball') return Math.PI * shape.radius ** 2;
  const r = rotationFromDegrees(shape.rotation);
  const axis = (a: 0 | 1 | 2): number => {
    const unit: Vec3 = [a === 0 ? 1 : 0, a === 1 ? 1 : 0, a === 2 ? 1 : 0];
    const turned = rotate(r, unit);
    return turned[0] * direction[0] + turned[1] * direction[1] + turned[2] * direction[2];
  };
  if (shape.kind === 'box') return ofBox(shape.size, [axis(0), axis(1), axis(2)]);
  const along = Math.min(1, Math.abs(axis(1)));
  return along * Math.PI * shape.radius ** 2 + Math.sqrt(1 - along * along) * 2 * shape.radius * shape.height;
}

const ofBox = ([x, y, z]: Vec3, [a, b, c]: Vec3): number => Math.abs(a) * y * z + Math.abs(b) * x * z + Math.abs(c) * x * y;

/** Cubic metres of a closed form; of an imported one those of its box. */
export function shapeVolume(shape: Shape): number {
  if (shape.kind === 'ball') return (4 / 3) * Math.PI * shape.radius ** 3;
  if (shape.kind === 'cylinder') return Math.PI * shape.radius ** 2 * shape.height;
  if (shape.kind === 'box') return shape.size[0] * shape.size[1] * shape.size[2];
  const { min, max } = shapeBounds(shape);
  return (max[0] - min[0]) * (max[1] - min[1]) * (max[2] - min[2]);
}

/** A shape so many times as large about its centre. */
export function scaledShape(shape: Shape, by: number): Shape {
  if (by === 1) return shape;
  if (shape.kind === 'mesh') return { ...shape, scale: shape.scale * by };
  return scaledPlain(shape, by);
}

function scaledPlain(shape: PlainShape, by: number): PlainShape {
  if (shape.kind === 'ball') return { ...shape, radius: shape.radius * by };
  if (shape.kind === 'cylinder') return { ...shape, radius: shape.radius * by, height: shape.height * by };
  return { ...shape, size: [shape.size[0] * by, shape.size[1] * by, shape.size[2] * by] };
}
