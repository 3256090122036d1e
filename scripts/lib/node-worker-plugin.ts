import { build } from 'esbuild';
import { createHash } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { basename, dirname, join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { Plugin } from 'vite';

const QUERY = '?nodeworker';

/**
 * Vite has no bundling of Node worker threads. `import url from './x.node.ts?nodeworker'` becomes the URL of an esbuild bundle of that
 * entry: in development and tests a file in Vite's cache folder, in a build an asset beside the server's chunks
 * (outside `_astro/`, which Astro moves to the client).
 */
export function nodeWorkers(): Plugin {
  let building = false;
  let cacheDir = '';
  const bundle = async (entry: string): Promise<{ code: string; inputs: string[] }> => {
    const result = await build({
      entryPoints: [entry],
      bundle: true,
      write: false,
      platform: 'node',
      format: 'esm',
      target: 'node20',
      metafile: true,
      sourcemap: building ? false : 'inline',
      logLevel: 'silent',
    });
    return {
      code: result.outputFiles[0]?.text ?? '',
      inputs: Object.keys(result.metafile.inputs).map((f) => resolve(f)),
    };
  };
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
      const entry = id.slice(0, -QUERY.length);
      const { code, inputs } = await bundle(entry);
      const name = `${basename(entry).replace(/\.node\.ts$/, '')}.worker.mjs`;
      if (building) {
        const ref = this.emitFile({ type: 'asset', fileName: `workers/${name}`, source: code });
        return `export default import.meta.ROLLUP_FILE_URL_${ref};`;
      }
      for (const file of inputs) this.addWatchFile(file);
      // By content: processes that start at the same moment must not read each other's half-written bundle.
      const hash = createHash('sha256').update(code).digest('hex').slice(0, 12);
      const file = join(cacheDir, `${hash}-${name}`);
      mkdirSync(cacheDir, { recursive: true });
      await writeOnce(file, code);
      return `export default ${JSON.stringify(pathToFileURL(file).href)};`;
    },
  };
}

async function writeOnce(file: string, code: string): Promise<void> {
  const { rename, writeFile } = await import('node:fs/promises');
  const present = await readFile(file, 'utf8').catch(() => null);
  if (present === code) return;
  const temporary = `${file}.${String(process.pid)}.${String(Math.random()).slice(2)}`;
  await writeFile(temporary, code);
  await rename(temporary, file);
}
