import type { Command } from './command';
import { importCommand } from './import';
import { inspectCommand } from './inspect';
import { passesCommand } from './passes';
import { runCommand } from './run';
import { schemaCommand } from './schema';
import { serveCommand } from './serve';
import { verifyCommand } from './verify';

export const commands: Readonly<Record<string, Command>> = {
  run: runCommand,
  passes: passesCommand,
  import: importCommand,
  inspect: inspectCommand,
  verify: verifyCommand,
  schema: schemaCommand,
  serve: serveCommand,
};
