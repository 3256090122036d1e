export { createShadowBuilder, type ShadowBuilder } from './shadow-client';
export { createPassSketcher, createSketcher, type PassSketcher, type Sketcher } from './sketch-client';
export { askShapes } from './shapes-client';
