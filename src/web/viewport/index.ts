export { type DropsLook } from './drops';
export { useContentOfAll } from './use-content';
export type { MeshLook, ShownMesh } from './mesh';
export {
  Viewport,
  type HandleMode,
  type SliceSetting,
  type View,
  type ViewportApi,
  type ViewportFrame,
  type ViewportHandles,
  type ViewportScene,
} from './viewport';
