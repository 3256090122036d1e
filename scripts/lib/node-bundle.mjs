// TypeScript for Node as an esbuild bundle, its worker threads beside it; npm packages stay outside.
import { build } from 'esbuild';
import { basename, dirname, join, resolve } from 'node:path';

const WORKERS = 'workers';

/** Turns `import url from './x.node.ts?nodeworker'` into the address of a bundle of its own. */
const workersIn = (folder) => ({
  name: 'node-workers',
  setup(b) {
    b.onResolve({ filter: /\?nodeworker$/ }, (args) => ({
      path: resolve(args.resolveDir, args.path.replace(/\?nodeworker$/, '')),
      namespace: 'node-worker',
    }));
    b.onLoad({ filter: /.*/, namespace: 'node-worker' }, async (args) => {
      const name = `${basename(args.path).replace(/\.node\.ts$/, '')}.worker.mjs`;
      await bundleForNode(args.path, join(folder, name), false);
      // A worker bundle's own workers lie beside it.
      return {
        contents: `export default new URL(import.meta.url.includes('/${WORKERS}/') ? './${name}' : './${WORKERS}/${name}', import.meta.url).href;`,
      };
    });
  },
});

export async function bundleForNode(entry, outfile, external = true) {
  const beside = dirname(outfile);
  await build({
    entryPoints: [entry],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    // Native code stays a package even in a worker's bundle.
    ...(external ? { packages: 'external' } : { external: ['sharp', '@libsql/client'] }),
    plugins: [workersIn(basename(beside) === WORKERS ? beside : join(beside, WORKERS))],
    logLevel: 'warning',
  });
}
