export { writeVdb, type VdbWriteOptions, type VdbGridInput } from './vdb-write';
export { readVdb, type VdbFile, type VdbGrid } from './vdb-read';
export { writeFrameFile, type FrameFileOptions } from './frame-file';
export { makePreview, halvePreview, encodePreview, decodePreview, PREVIEW_SIDE, type Preview } from './preview';
export { summarize, type GridSummary } from './summary';
export { toHalf, fromHalf } from './half';
export { lz4Compress, lz4Decompress } from './lz4';
export { bloscCompress, bloscDecompress } from './blosc';
export { differenceOf, type Difference, type PlacedPreview } from './difference';
