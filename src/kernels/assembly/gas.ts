// What a gas solve runs: compiled alone, its digest says which code computed a run (scripts/build-kernels.mjs).
export { advectCells, correctCells, advectFaces, correctFaces, advectFaceList } from './advect';
export { calibrate } from './calibrate';
export { fillTiles, scaleTiles, followCells, copyTiles, fillPlanes, copyBox, tileStatistics, tileSums } from './fields';
export { buoyancy, relax, relaxAlong, thin, addNoise, vorticity, confinement, addCellsToFaces } from './forces';
export {
  buildDiagonal,
  smooth,
  smoothFirst,
  applyPoisson,
  residual,
  restrictResidual,
  prolongAdd,
  coarsenStatus,
} from './poisson';
export {
  divergence,
  subtractGradient,
  subtractGradientList,
  closeFaces,
  extendCells,
  scatterTiles,
  clearOpenCells,
  clearOpenFaces,
} from './project';
export { pairRows, unpairRows, tileSum, addToUnknowns, dot, advanceSolution, advanceDirection } from './paired';
export { burn, expand, expandHeat } from './fire';
export { emissionNoise } from './noise';
export { beThread, carry } from './carry';
export { roundTripError, carryError, advectCubic } from './advect-more';
export { addWeighted, scaleByWeights, relaxWeighted, attract, diffuse, sharpen } from './regions';
