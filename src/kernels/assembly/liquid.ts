// What a liquid solve runs. Run keys of liquid hold a digest of these alone (scripts/build-kernels.mjs).
export { calibrate } from './calibrate';
export { fillTiles, scaleTiles, copyTiles, fillPlanes, copyBox } from './fields';
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
export { divergence } from './project';
export { pairRows, unpairRows, tileSum, addToUnknowns, dot, advanceSolution, advanceDirection } from './paired';
export { beThread } from './carry';
export { markTiles, countParticles, orderParticles, sortTiles } from './liquid-sort';
export { depositParticles, shareOut } from './liquid-deposit';
export { liquidDistance, markLiquid } from './liquid-skin';
export { findSurface, surfaceDiagonal, pushSurface, subtractLiquidGradient } from './liquid-ghost';
export { crowding, evenCrowding } from './liquid-crowding';
export { findFlaws } from './liquid-flaws';
export { startLayers, countLayers, mergeDeep, countSplits, splitParticles } from './liquid-band';
export { liquidFraction, smoothFraction, surfaceCurvature, nearestCurvature } from './liquid-tension';
export { spreadFaces, addToKnown, forgetFaces, differenceOf, slipFaces } from './liquid-faces';
export { moveParticles, measureParticles } from './liquid-move';
export {
  viscosityOfCells,
  prepareViscosity,
  viscousStress,
  viscousApply,
  viscousStart,
  viscousAdvance,
  viscousDirection,
} from './liquid-stress';
export { addNoise, vorticity, confinement, addCellsToFaces } from './forces';
export { addWeighted, scaleByWeights, relaxWeighted, attract } from './regions';
