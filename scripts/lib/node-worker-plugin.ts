import { build, type Plugin as EsbuildPlugin } from 'esbuild';
import { createHash } from 'node:crypto';
import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { basename, dirname, join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { Plugin } from 'vite';

const QUERY = '?nodeworker';

interface Bundle {
  readonly name: string;
  readonly code: string;
  /** Its source map, as a file of its own: a thread that starts need not read it. Empty: there is none. */
  readonly map: string;
  readonly inputs: readonly string[];
  /** Workers that this one starts. */
  readonly nested: readonly Bundle[];
}

/**
 * Bundles a worker entry. Workers that it starts itself become bundles of their own; `address` says by which expression the code finds them.
 */
export async function bundleWorker(entry: string, address: (worker: Bundle) => Promise<string>, sourcemap: boolean): Promise<Bundle> {
  const nested: Bundle[] = [];
  const plugin: EsbuildPlugin = {
    name: 'node-workers',
    setup(b) {
      b.onResolve({ filter: /\?nodeworker$/ }, (args) => ({
        path: resolve(args.resolveDir, args.path.slice(0, -QUERY.length)),
        namespace: 'node-worker',
      }));
      b.onLoad({ filter: /.*/, namespace: 'node-worker' }, async (args) => {
        const worker = await bundleWorker(args.path, address, sourcemap);
        nested.push(worker);
        return { contents: `export default ${await address(worker)};` };
      });
    },
  };
  const result = await build({
    entryPoints: [entry],
    bundle: true,
    write: false,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    metafile: true,
    // A third fewer bytes to read at the start of every run; names stay, for what a stack says.
    minifyWhitespace: true,
    // Native code: stays a package.
    external: ['sharp', '@libsql/client'],
    outfile: 'worker.mjs',
    sourcemap: sourcemap ? 'external' : false,
    logLevel: 'silent',
    plugins: [plugin],
  });
  const inputs = Object.keys(result.metafile.inputs).filter((f) => !f.startsWith('node-worker:'));
  return {
    name: `${basename(entry).replace(/\.node\.ts$/, '')}.worker.mjs`,
    code: result.outputFiles.find((f) => f.path.endsWith('.mjs'))?.text ?? '',
    map: result.outputFiles.find((f) => f.path.endsWith('.map'))?.text ?? '',
    inputs: [...inputs.map((f) => resolve(f)), ...nested.flatMap((n) => n.inputs)],
    nested,
  };
}

/**
 * Vite has no bundling of Node worker threads. `import url from './x.node.ts?nodeworker'` becomes the URL of an esbuild bundle of that
 * entry: in development and tests a file in Vite's cache folder, in a build an asset beside the server's chunks
 * (outside `_astro/`, which Astro moves to the client).
 */
export function nodeWorkers(): Plugin {
  let building = false;
  let cacheDir = '';
  const cached = async (worker: Bundle): Promise<string> => {
    // By content: processes that start at the same moment must not read each other's half-written bundle.
    const hash = createHash('sha256').update(worker.code).digest('hex').slice(0, 12);
    const file = join(cacheDir, `${hash}-${worker.name}`);
    await mkdir(cacheDir, { recursive: true });
    await writeOnce(`${file}.map`, worker.map);
    await writeOnce(file, `${worker.code}//# sourceMappingURL=${basename(file)}.map\n`);
    return JSON.stringify(pathToFileURL(file).href);
  };
  const beside = (worker: Bundle): Promise<string> => Promise.resolve(`new URL('./${worker.name}', import.meta.url).href`);
  return {
    name: 'ruddle-node-workers',
    enforce: 'pre',
    configResolved(config) {
      building = config.command === 'build';
      cacheDir = join(config.cacheDir, 'node-workers');
    },
    resolveId(source, importer) {
      if (!source.endsWith(QUERY) || !importer) return null;
      return resolve(dirname(importer), source.slice(0, -QUERY.length)) + QUERY;
    },
    async load(id) {
      if (!id.endsWith(QUERY)) return null;
      const worker = await bundleWorker(id.slice(0, -QUERY.length), building ? beside : cached, !building);
      if (building) {
        const emit = (w: Bundle): string => {
          w.nested.forEach(emit);
          return this.emitFile({ type: 'asset', fileName: `workers/${w.name}`, source: w.code });
        };
        return `export default import.meta.ROLLUP_FILE_URL_${emit(worker)};`;
      }
      for (const file of worker.inputs) this.addWatchFile(file);
      return `export default ${await cached(worker)};`;
    },
  };
}

async function writeOnce(file: string, code: string): Promise<void> {
  if ((await readFile(file, 'utf8').catch(() => null)) === code) return;
  const temporary = `${file}.${String(process.pid)}.${String(Math.random()).slice(2)}`;
  await writeFile(temporary, code);
  await rename(temporary, file);
}
