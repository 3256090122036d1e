// Kernels, site, command line; in this order, as Astro's build empties dist/.
import { execFileSync } from 'node:child_process';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { buildKernels } from './build-kernels.mjs';
import { buildCli } from './build-cli.mjs';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
await buildKernels();
execFileSync(process.execPath, [join(root, 'node_modules/astro/astro.js'), 'build', '--silent'], {
  cwd: root,
  stdio: 'inherit',
  env: { ...process.env, ASTRO_TELEMETRY_DISABLED: '1' },
});
await buildCli();
