export { type Shape, type Distance, type Box3, shapeDistance, shapeBounds, union } from './shapes';
