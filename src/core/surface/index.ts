export { Pool } from './pool';
export { type SurfaceParticles, type Cells, sortIntoCells, cellBuffers } from './cells';
export { BAND, bandOfCells, makeBand } from './band';
export { Level } from './level';
export { METHODS, NATURAL, type Method, type DistanceOptions, cellSizeOf, distanceOf, surroundings } from './distance';
export { FILTER_KINDS, type Filter, type FilterKind, applyFilter, keepVolume, markThin } from './filters';
export { polygonTable } from './polygon-table';
export { type SurfaceMesh, EMPTY_MESH, carried, polygonsOfLevel } from './polygons';
export { MEETINGS, DEEPEST, type Meeting, Reader, WallField, boxDistance, cutAtWalls, reachIntoWalls, standsIn } from './walls';
export { compact, openAt } from './cut';
export { bendOf, contactOf, countPieces, meshVolume, piecesOf, roughnessOf } from './figures';
export { type WaveOptions, addWaves, wavesOf } from './waves';
export {
  SURFACE_STAGES,
  type Surface,
  type SurfaceFigures,
  type SurfaceInput,
  type SurfaceOptions,
  type SurfaceStage,
  type Surrounding,
  bytesOfSurface,
  makeSurface,
  maySurface,
} from './surface';
