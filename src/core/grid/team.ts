/** Kernels by name, as exported by src/kernels/assembly/index.ts. */
export type KernelName =
  | 'advectCells'
  | 'correctCells'
  | 'advectFaces'
  | 'correctFaces'
  | 'advectFaceList'
  | 'calibrate'
  | 'fillTiles'
  | 'scaleTiles'
  | 'followCells'
  | 'copyTiles'
  | 'fillPlanes'
  | 'copyBox'
  | 'tileStatistics'
  | 'tileSums'
  | 'buoyancy'
  | 'relax'
  | 'relaxAlong'
  | 'thin'
  | 'addNoise'
  | 'emissionNoise'
  | 'vorticity'
  | 'confinement'
  | 'addCellsToFaces'
  | 'buildDiagonal'
  | 'pairRows'
  | 'unpairRows'
  | 'tileSum'
  | 'addToUnknowns'
  | 'smooth'
  | 'smoothFirst'
  | 'applyPoisson'
  | 'residual'
  | 'restrictResidual'
  | 'prolongAdd'
  | 'coarsenStatus'
  | 'dot'
  | 'advanceSolution'
  | 'advanceDirection'
  | 'divergence'
  | 'subtractGradient'
  | 'subtractGradientList'
  | 'closeFaces'
  | 'extendCells'
  | 'scatterTiles'
  | 'clearOpenCells'
  | 'clearOpenFaces'
  | 'roundTripError'
  | 'carryError'
  | 'advectCubic'
  | 'burn'
  | 'expand'
  | 'expandHeat'
  | 'carry'
  | 'addWeighted'
  | 'scaleByWeights'
  | 'relaxWeighted'
  | 'attract'
  | 'diffuse'
  | 'sharpen'
  | 'flyParticles'
  | 'addedPotential'
  | 'carriedFaces'
  | 'carryPlaces'
  | 'averageOver'
  | 'holdCells'
  | 'averageVelocity'
  | 'drawFaces'
  | 'markTiles'
  | 'countParticles'
  | 'orderParticles'
  | 'sortTiles'
  | 'depositParticles'
  | 'shareOut'
  | 'liquidDistance'
  | 'markLiquid'
  | 'findSurface'
  | 'surfaceDiagonal'
  | 'subtractLiquidGradient'
  | 'pushSurface'
  | 'liquidFraction'
  | 'smoothFraction'
  | 'surfaceCurvature'
  | 'nearestCurvature'
  | 'findFlaws'
  | 'startLayers'
  | 'countLayers'
  | 'mergeDeep'
  | 'countSplits'
  | 'splitParticles'
  | 'crowding'
  | 'evenCrowding'
  | 'viscosityOfCells'
  | 'prepareViscosity'
  | 'viscousStress'
  | 'viscousApply'
  | 'viscousStart'
  | 'viscousAdvance'
  | 'viscousDirection'
  | 'spreadFaces'
  | 'addToKnown'
  | 'forgetFaces'
  | 'differenceOf'
  | 'slipFaces'
  | 'moveParticles'
  | 'measureParticles';

/** Seconds since some start; passed in, so that tests and results do not depend on the machine's clock. */
export type Clock = () => number;

/**
 * What a solver needs of the machine: one shared memory with a bump allocator, and kernels that run on it with every
 * thread of the team. Pointers are byte offsets. Views stay valid when the memory grows (it is shared memory).
 */
export interface KernelTeam {
  readonly threads: number;
  /** 64-byte aligned, zeroed. Throws `arena-too-small` when the arena cannot hold it. */
  allocate(bytes: number): number;
  /** Bytes that could still be allocated. */
  available(): number;
  allocated(): number;
  floats(pointer: number, count: number): Float32Array;
  doubles(pointer: number, count: number): Float64Array;
  words(pointer: number, count: number): Int32Array;
  bytes(pointer: number, count: number): Uint8Array;
  /** Runs kernel(begin, end, ...args) over [0, count), split between the threads; returns when all of it is done. */
  launch(kernel: KernelName, count: number, ...args: number[]): void;
}
