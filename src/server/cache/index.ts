export { frameFileName, previewFileName, writeWhole, readBytes, freeBytes, isDiskFull, moveFolder, removeFolder, exists } from './files';
export { geometryPath, geometryFolder, keepGeometry, readGeometry } from './geometry';
export { type RunRecord, type RunFrameRecord, writeRunRecord } from './run-record';
export { DiskGuard, KEEP_BYTES } from './disk-guard';
