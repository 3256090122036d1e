import { spawn } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import type { Command } from './command';
import { UsageError } from './exit';

const HELP = `Starts the application on this machine's loopback address and prints where.

Usage: ruddle serve [--port N] [--data DIR]

  --port N     0 picks a free one (4820)
  --data DIR   database and caches (.ruddle in the present folder)`;

export const serveCommand: Command = {
  summary: 'starts the application',
  help: HELP,
  async run(args) {
    const { values } = parseArgs({
      args: [...args],
      options: { port: { type: 'string' }, data: { type: 'string' } },
    });
    if (values.port !== undefined && !/^\d{1,5}$/.test(values.port)) throw new UsageError(`--port is ${values.port}; it is a number.`);
    const server = fileURLToPath(new URL('../../server.mjs', import.meta.url));
    const child = spawn(process.execPath, [server], {
      stdio: 'inherit',
      env: {
        ...process.env,
        ...(values.port === undefined ? {} : { RUDDLE_PORT: values.port }),
        ...(values.data === undefined ? {} : { RUDDLE_DATA: values.data }),
      },
    });
    const pass = (signal: NodeJS.Signals): void => void child.kill(signal);
    process.on('SIGINT', pass);
    process.on('SIGTERM', pass);
    return await new Promise<number>((resolve) =>
      child.on('exit', (code) => {
        resolve(code ?? 1);
      }),
    );
  },
};
