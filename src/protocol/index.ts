export * from './api';
export * from './gas';
export * from './geometry';
export * from './pass';
export * from './pass-sketch';
export * from './reading';
export * from './shapes';
