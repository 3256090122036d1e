// What the gas solve's own workers are told and say.
export * from './compute';
export * from './sketch';
