export * from './compute';
export * from './api';
export * from './sketch';
export * from './geometry';
export * from './shapes';
export * from './pass';
