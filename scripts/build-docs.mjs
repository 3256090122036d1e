// docs/shot-file.md from the schema, so that it cannot drift. `--check` fails when the file is not what would be written.
import { build } from 'esbuild';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const folder = await mkdtemp(join(root, 'node_modules/.cache-docs-'));
const out = join(folder, 'docs.mjs');
await build({
  entryPoints: [join(root, 'scripts/lib/shot-file-page.ts')],
  outfile: out,
  bundle: true,
  platform: 'node',
  format: 'esm',
  packages: 'external',
  logLevel: 'warning',
});
const { shotFilePage } = await import(pathToFileURL(out).href);
await rm(folder, { recursive: true });
const page = shotFilePage();
const file = join(root, 'docs/shot-file.md');
const present = await readFile(file, 'utf8').catch(() => '');
if (process.argv.includes('--check')) {
  if (present !== page) {
    console.error('docs/shot-file.md is not what the schema says. Run `npm run docs`.');
    process.exit(1);
  }
} else {
  await writeFile(file, page);
}
