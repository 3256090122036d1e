export { type Check, type CheckInput, type Finding, type Remedy, framesText } from './finding';
export { CHECKS, findAll } from './registry';
export { findForSheet } from './sheet';
