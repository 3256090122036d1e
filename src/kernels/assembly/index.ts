// One module for all kernels; the same one is instantiated in every thread over one shared memory.
export * from './gas';
export * from './particles';
export { addedPotential, carriedFaces, carryPlaces, averageOver, holdCells, averageVelocity, drawFaces } from './upscale';
export { markTiles, countParticles, orderParticles, sortTiles } from './liquid-sort';
export { depositParticles, shareOut } from './liquid-deposit';
export { liquidDistance, markLiquid, findSurface, surfaceDiagonal, subtractLiquidGradient, crowding, evenCrowding } from './liquid-skin';
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
