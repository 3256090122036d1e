export {
  type Shape,
  type PlainShape,
  type MeshShape,
  type Distance,
  type Box3,
  shapeDistance,
  shapeBounds,
  turnedBox,
  pinned,
  rigidVelocity,
  sameShape,
  shapeTravel,
  unitPlace,
  union,
} from './shapes';
export { type Picture, type PictureMask, throughPicture } from './picture';
export {
  type Pose,
  type Form,
  type FormMaker,
  type Body,
  type BodyKind,
  formOf,
  poseOf,
  isAnimated,
  bodyDistance,
  bodyBand,
} from './forms';
export { crossSection, shapeVolume, scaledShape } from './cross-section';
