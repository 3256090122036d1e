// The command line as an esbuild bundle, its worker threads beside it; npm packages stay outside.
import { build } from 'esbuild';
import { basename, dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');

const workers = {
  name: 'node-workers',
  setup(b) {
    b.onResolve({ filter: /\?nodeworker$/ }, (args) => ({
      path: resolve(args.resolveDir, args.path.replace(/\?nodeworker$/, '')),
      namespace: 'node-worker',
    }));
    b.onLoad({ filter: /.*/, namespace: 'node-worker' }, async (args) => {
      const name = `${basename(args.path).replace(/\.node\.ts$/, '')}.worker.mjs`;
      await bundle(args.path, join(root, 'dist/cli/workers', name), false);
      // A worker bundle's own workers lie beside it.
      return {
        contents: `export default new URL(import.meta.url.includes('/workers/') ? './${name}' : './workers/${name}', import.meta.url).href;`,
      };
    });
  },
};

async function bundle(entry, outfile, external) {
  await build({
    entryPoints: [entry],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    ...(external ? { packages: 'external' } : {}),
    plugins: [workers],
    logLevel: 'warning',
  });
}

export async function buildCli() {
  await bundle(join(root, 'src/cli/entry.ts'), join(root, 'dist/cli/entry.mjs'), true);
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await buildCli();
