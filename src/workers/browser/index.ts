export { createShadowBuilder, type ShadowBuilder } from './shadow-client';
