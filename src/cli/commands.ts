import { inspectCommand } from './inspect';
import { runCommand } from './run';
import { schemaCommand } from './schema';
import { serveCommand } from './serve';

export interface Command {
  readonly summary: string;
  readonly help: string;
  run(args: readonly string[]): Promise<number>;
}

export const commands: Readonly<Record<string, Command>> = {
  run: runCommand,
  inspect: inspectCommand,
  schema: schemaCommand,
  serve: serveCommand,
};
