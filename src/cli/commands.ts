import type { Command } from './command';
import { importCommand } from './import';
import { inspectCommand } from './inspect';
import { runCommand } from './run';
import { schemaCommand } from './schema';
import { serveCommand } from './serve';

export const commands: Readonly<Record<string, Command>> = {
  run: runCommand,
  import: importCommand,
  inspect: inspectCommand,
  schema: schemaCommand,
  serve: serveCommand,
};
