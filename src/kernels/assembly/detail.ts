// What a detail pass runs. Run keys of detail hold a digest of these alone (scripts/build-kernels.mjs).
export { addedPotential, carriedFaces, carryPlaces, averageOver, holdCells } from './upscale';
export { advectCells, correctCells } from './advect';
export { copyTiles, tileStatistics } from './fields';
