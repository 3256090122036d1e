export {
  frameFileName,
  previewFileName,
  stateFileName,
  STATES_FOLDER,
  writeWhole,
  readBytes,
  freeBytes,
  isDiskFull,
  moveFolder,
  removeFolder,
  exists,
  makeFolder,
  linkFiles,
} from './files';
export { geometryPath, geometryFolder, keepGeometry, keepGeometryFile, readGeometry } from './geometry';
export { type OutputRules, claimExport, claimOutput } from './output';
export {
  type RunRecord,
  type RunFrameRecord,
  type StateRecord,
  type StoredReport,
  type WrittenFile,
  foreignIn,
  freeRun,
  isEmptyRun,
  readRunRecord,
  sweepRun,
  writeRunRecord,
} from './run-record';
export { type Damage, type Look, lookAtFile, lookAtSize, readWritten } from './integrity';
export { DiskGuard, KEEP_BYTES, type Reclaimable } from './disk-guard';
export { filesOfFolder, lookAtFolders } from './folder';
export { type Incoming, takeIn } from './incoming';
export { type Drained, receive, sendFile, uploadsFolder, withWorkspace } from './uploads';
