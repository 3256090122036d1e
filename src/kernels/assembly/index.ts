// One module for all kernels; the same one is instantiated in every thread over one shared memory.
export * from './gas';
export * from './particles';
export { addedPotential, carriedFaces, carryPlaces, averageOver, holdCells, averageVelocity, drawFaces } from './upscale';
export { markTiles, countParticles, orderParticles, sortTiles } from './liquid-sort';
export { depositParticles, shareOut } from './liquid-deposit';
export { liquidDistance, markLiquid, surfaceDepth } from './liquid-skin';
export { findSurface, surfaceDiagonal, pushSurface, subtractLiquidGradient, pushHanging, settleHanging } from './liquid-ghost';
export { crowding, evenCrowding } from './liquid-crowding';
export { findFlaws } from './liquid-flaws';
export { startLayers, countLayers, mergeDeep, countSplits, splitParticles } from './liquid-band';
export { liquidFraction, smoothFraction, surfaceCurvature, nearestCurvature } from './liquid-tension';
export { spreadFaces, addToKnown, forgetFaces, differenceOf, slipFaces } from './liquid-faces';
export { rubWalls } from './liquid-rub';
export { endVelocities, moveParticles, measureParticles } from './liquid-move';
export {
  viscosityOfCells,
  prepareViscosity,
  viscousStress,
  viscousApply,
  viscousStart,
  viscousAdvance,
  viscousDirection,
} from './liquid-stress';
export { sampleTiles } from './surface-tiles';
export { deepCells } from './surface-cells';
export { tileDistance } from './surface-distance';
export { neighbourhoods, tileKernels, levelDistance } from './surface-ellipsoids';
export { findNear, startDistance, stepDistance, settleDistance } from './surface-redistance';
export { gaussianTiles, medianTiles, curvatureTiles, blendTiles, shiftTiles, volumeTiles, clipTiles } from './surface-filter';
export { countPolygons, writePolygons, carryToVertices } from './surface-polygons';
