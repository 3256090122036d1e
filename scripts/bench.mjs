// npm run bench: bundles bench/main.ts and runs it.
import { spawnSync } from 'node:child_process';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { bundleForNode } from './lib/node-bundle.mjs';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
// Inside the project, so that packages are found from it.
const out = join(root, 'node_modules/.cache/bench/main.mjs');
await bundleForNode(join(root, 'bench/main.ts'), out);
const { status } = spawnSync(process.execPath, [out, ...process.argv.slice(2)], { cwd: root, stdio: 'inherit' });
process.exit(status ?? 1);
