export { startHelperThread } from './helpers';
export { startCompute, type Compute, type ComputeOptions, type FrameMessage } from './compute';
export { importGeometry, pngOf } from './importing';
