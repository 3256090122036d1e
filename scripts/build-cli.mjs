// The command line as a bundle.
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { bundleForNode } from './lib/node-bundle.mjs';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');

export async function buildCli() {
  await bundleForNode(join(root, 'src/cli/entry.ts'), join(root, 'dist/cli/entry.mjs'));
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await buildCli();
