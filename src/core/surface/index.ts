export { Pool } from './pool';
export { type SurfaceParticles, type Cells, sortIntoCells, cellBuffers } from './cells';
export { BAND, makeBand } from './band';
export { Level } from './level';
export { METHODS, NATURAL, type Method, type DistanceOptions, cellSizeOf, distanceOf, surroundings } from './distance';
export { FILTER_KINDS, type Filter, type FilterKind, applyFilter, keepVolume, markThin } from './filters';
export { polygonTable } from './polygon-table';
export { type SurfaceMesh, polygonsOfLevel } from './polygons';
export { MEETINGS, DEEPEST, type Meeting, Reader } from './walls';
export { compact } from './cut';
export { bendOf } from './figures';
export { type WaveOptions } from './waves';
export {
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
