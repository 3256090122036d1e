export * from './compute';
export * from './api';
