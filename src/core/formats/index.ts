export { writeVdb, type VdbWriteOptions, type VdbGridInput } from './vdb-write';
export { readVdb, type VdbFile, type VdbGrid } from './vdb-read';
export { channelName, readFrameFile, writeFrameFile, type FrameFileOptions, type FrameGrids } from './frame-file';
export { makePreview, encodePreview, decodePreview, PREVIEW_SIDE, type Preview } from './preview';
export { summarize, type GridSummary } from './summary';
export { toHalf, fromHalf } from './half';
export { lz4Compress, lz4Decompress } from './lz4';
export { bloscCompress, bloscDecompress } from './blosc';
export { differenceOf, type Difference, type PlacedPreview } from './difference';
export { BUNDLE_SHOT, bundleGeometryName, bundleGeometryHash, isZip } from './bundle';
export {
  PREVIEW_POINTS,
  type ParticleColumns,
  type PlyConvention,
  type PointsPreview,
  pointsPreview,
  readPointsPreview,
  writePly,
  type PlyAttribute,
} from './ply';
export { type PlySummary, plyProperties, readPly, summarizePly } from './ply-read';
export { type MeshColumns, writeMeshPly, writeObj } from './mesh-files';
export { type MeshPreview, meshPreview, readMeshPreview } from './mesh-preview';
