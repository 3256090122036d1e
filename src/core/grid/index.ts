export { type Window, TILE, windowOf, entries, rowStride, planeStride, indexOf, sameWindow } from './window';
export { type KernelTeam, type KernelName, type Clock } from './team';
export { type TileGeometry, type MovingSolid, GeometryCache, type Walls, WALLS, type Wall } from './geometry-cache';
export { faceFraction } from './fractions';
export { Hierarchy, type Level } from './hierarchy';
export { PressureSolver, type PressureReport, type PressureArrays } from './pressure';
export { type TileGrid } from './tile-grid';
export { RECORD_WORDS, hierarchyBytes } from './hierarchy';
export { findPockets, pairedIndex, type Pocket } from './pockets';
