export * from './compute';
export * from './api';
export * from './sketch';
