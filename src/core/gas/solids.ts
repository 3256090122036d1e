import { type Distance, type Shape, shapeDistance, union } from '#core/geometry';

/** Signed distance of all solids together, negative inside. */
export const unionShapes = (shapes: readonly Shape[]): Distance => union(shapes.map(shapeDistance));
