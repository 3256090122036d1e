// What a held solve runs. Run keys of held hold a digest of these alone (scripts/build-kernels.mjs).
export * from './gas';
export { averageOver, holdCells, averageVelocity, drawFaces } from './upscale';
