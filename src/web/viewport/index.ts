export { Viewport, type ViewportFrame, type ViewportScene, type SliceSetting } from './viewport';
