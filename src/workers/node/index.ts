export { startHelperThread } from './helpers';
export { type FrameMessage } from './compute';
export { startBounds } from './compute-bounds';
export { importGeometry, runImport, pngOf } from './importing';
export { Checking, Unreadable } from './checking';
export { Reading } from './reading';
export { type PassFrameMessage, type PassOptions, startPass } from './pass';
