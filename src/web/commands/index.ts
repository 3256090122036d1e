export { commands, type Command } from './registry';
export { useCommandKeys } from './keys';
