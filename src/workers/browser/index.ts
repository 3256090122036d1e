export { createShadowBuilder, type ShadowBuilder } from './shadow-client';
export { createSketcher, type Sketcher } from './sketch-client';
export { askShapes } from './shapes-client';
