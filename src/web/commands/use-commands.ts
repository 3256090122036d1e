import { useEffect } from 'react';
import { type Command, commands } from './registry';

/** Commands of a view, as long as it is shown; each drawing of it replaces the one before. */
export function useCommands(list: readonly Command[]): void {
  useEffect(() => commands.register(list));
}
