export { App, openApp, sharedApp } from './app';
export { EventHub } from './events';
