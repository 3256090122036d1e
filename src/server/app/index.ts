export { App, openApp, sharedApp } from './app';
export { EventHub } from './events';
export type { ImportTask } from './imports';
