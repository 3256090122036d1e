export { openDatabase, readDatabase, type Database } from './open';
export { type FolderLock, lockFolder } from './lock';
export { Kept, keptFields, keptPlan, keptSettings } from './kept';
export * as tables from './schema';
