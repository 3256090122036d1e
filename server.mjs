// The production server: our own small http server around Astro's handler, as every answer needs the guard's headers.
import { createServer } from 'node:http';
import { existsSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { guard } from './server-guard.mjs';

const root = dirname(fileURLToPath(import.meta.url));
process.env.RUDDLE_ROOT ??= root;
process.env.ASTRO_NODE_AUTOSTART = 'disabled';

const entry = join(root, 'dist/server/entry.mjs');
if (!existsSync(entry)) {
  console.error('Ruddle is not built yet. Run `npm start`.');
  process.exit(1);
}
const { handler } = await import(entry);

const server = createServer((request, response) => {
  // The handler writes as fast as an answer's stream gives: what is large asks here first.
  if (guard(request, response)) handler(request, response, undefined, { drained: () => drained(response) });
});
/** Resolves when what was written to a response has been taken, or its connection is gone. */
function drained(response) {
  if (!response.writableNeedDrain || response.destroyed) return Promise.resolve();
  return new Promise((resolve) => {
    const over = () => {
      response.off('drain', over);
      response.off('close', over);
      resolve();
    };
    response.on('drain', over);
    response.on('close', over);
  });
}

const wanted = Number(process.env.RUDDLE_PORT ?? 4820);
let tries = 0;
server.on('error', (error) => {
  // A port that is taken: the next ones, unless one was asked for.
  if (error.code === 'EADDRINUSE' && process.env.RUDDLE_PORT === undefined && ++tries < 20) {
    server.listen(wanted + tries, '127.0.0.1');
    return;
  }
  console.error(`Ruddle cannot listen on port ${wanted + tries}: ${error.message}`);
  process.exit(1);
});
server.listen(wanted, '127.0.0.1', async () => {
  const address = `http://127.0.0.1:${server.address().port}`;
  process.env.RUDDLE_ADDRESS = address;
  // The first request opens the database, loads the demo and starts the queue.
  const response = await fetch(`${address}/api/status`).catch(() => null);
  const answer = response?.ok ? null : await response?.json().catch(() => null);
  if (answer?.error) {
    // Above all: another process has the data folder open.
    console.error(answer.error.message);
    process.exit(1);
  }
  console.log(`Ruddle is at ${address}`);
});

let ending = false;
for (const signal of ['SIGINT', 'SIGTERM']) {
  process.on(signal, async () => {
    if (ending) process.exit(1);
    ending = true;
    server.close();
    server.closeAllConnections();
    // Runs are cancelled; their whole frames stay.
    const app = globalThis[Symbol.for('ruddle.app')];
    await Promise.race([app?.then((a) => a.close()).catch(() => undefined), new Promise((r) => setTimeout(r, 3000))]);
    process.exit(0);
  });
}
