export { commands, type Command } from './registry';
export { useCommandKeys } from './keys';
export { useCommands } from './use-commands';
