export {
  type Shape,
  type Distance,
  type Box3,
  shapeDistance,
  shapeBounds,
  pinned,
  rigidVelocity,
  sameShape,
  shapeTravel,
  union,
} from './shapes';
