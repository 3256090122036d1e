import type { Command } from './command';
import { exportCommand } from './export';
import { freeCommand } from './free';
import { importCommand } from './import';
import { inspectCommand } from './inspect';
import { passesCommand } from './passes';
import { queueCommand } from './queue';
import { runCommand } from './run';
import { schemaCommand } from './schema';
import { serveCommand } from './serve';
import { surfaceCommand } from './surface';
import { verifyCommand } from './verify';

export const commands: Readonly<Record<string, Command>> = {
  run: runCommand,
  passes: passesCommand,
  surface: surfaceCommand,
  import: importCommand,
  inspect: inspectCommand,
  verify: verifyCommand,
  free: freeCommand,
  export: exportCommand,
  queue: queueCommand,
  schema: schemaCommand,
  serve: serveCommand,
};
