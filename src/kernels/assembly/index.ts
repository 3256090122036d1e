// One module for all kernels; the same one is instantiated in every thread over one shared memory.
export * from './gas';
export * from './particles';
export { addedPotential, carriedFaces, carryPlaces, averageOver, holdCells, averageVelocity, drawFaces } from './upscale';
