export { openDatabase, type Database } from './open';
export * as tables from './schema';
