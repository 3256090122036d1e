// What a surface runs. Run keys of surfaces hold a digest of these alone (scripts/build-kernels.mjs).
export { beThread } from './carry';
export { markTiles, countParticles, orderParticles, sortTiles } from './liquid-sort';
export { sampleTiles } from './surface-tiles';
export { deepCells } from './surface-cells';
export { tileDistance } from './surface-distance';
export { neighbourhoods, tileKernels, levelDistance } from './surface-ellipsoids';
export { findNear, startDistance, stepDistance, settleDistance } from './surface-redistance';
export { gaussianTiles, medianTiles, curvatureTiles, blendTiles, shiftTiles, volumeTiles, clipTiles } from './surface-filter';
export { countPolygons, writePolygons, carryToVertices } from './surface-polygons';
