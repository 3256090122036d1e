export { openDatabase, readDatabase, type Database } from './open';
export { patiently } from './patient';
export { type FolderLock, lockFolder } from './lock';
export { Kept, keptFields, keptPlan, keptSettings } from './kept';
export * as tables from './schema';
