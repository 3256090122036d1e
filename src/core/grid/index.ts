export { type Window, TILE, windowOf, windowVoxels, entries, rowStride, planeStride, indexOf, sameWindow, unite } from './window';
export { type KernelTeam, type KernelName, type Clock } from './team';
export { type TileGeometry, GeometryCache, type Walls, WALLS, type Wall } from './geometry-cache';
export { faceFraction } from './fractions';
export { Hierarchy, type Level } from './hierarchy';
export { PressureSolver, type PressureReport, type PressureLimits } from './pressure';
export { type TileGrid, tileCount } from './tile-grid';
export { RECORD_WORDS, hierarchyBytes } from './hierarchy';
export { findPockets, removeMeans, type Pocket } from './pockets';
