import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it, vi } from 'vitest';
import { readVdb } from '#core/formats';
import { type AnyPlan, kindOf, opsOf } from '#core/passes';
import { parseShotFile } from '#core/shot';
import { readRunRecord } from '#server/cache';
import { runPass } from './run-pass';

/** Kinds, their versions, and what their frames of the golden shots held when that version was written down: `npm run golden` does that. */
const GOLDEN = 'src/workers/fixtures/golden.json';
type Golden = Record<string, { readonly version: string; readonly frames: string }>;

const out = mkdtempSync(join(tmpdir(), 'ruddle-golden-'));
// Frames are told on the console as the command line does.
beforeAll(() => void vi.spyOn(console, 'log').mockImplementation(() => undefined));
afterAll(() => {
  rmSync(out, { recursive: true, force: true });
});

/** What a folder's frames hold; the identifier in a .vdb is made from the run key, which holds the version. */
function contentsOf(folder: string): string {
  const hash = createHash('sha256');
  const view = (a: ArrayBufferView): void => void hash.update(new Uint8Array(a.buffer, a.byteOffset, a.byteLength));
  for (const name of readdirSync(folder)
    .filter((f) => /\.-?\d+\.(?:vdb|ply|png|obj|glb)$/.test(f))
    .sort()) {
    hash.update(name);
    const bytes = readFileSync(join(folder, name));
    if (!name.endsWith('.vdb')) hash.update(bytes);
    else
      for (const { name: grid, tiles } of readVdb(bytes).grids) {
        hash.update(grid);
        if (tiles) [tiles.origins, tiles.values, tiles.masks].forEach(view);
      }
  }
  return hash.digest('hex');
}

async function computed(kind: 'gas' | 'liquid', pass: string, change: (text: string) => string = (t) => t): Promise<Golden> {
  const file = `src/workers/fixtures/golden-${kind}.json`;
  const shot = parseShotFile(change(readFileSync(file, 'utf8')), file);
  const folder = mkdtempSync(join(out, `${kind}-`));
  const outcome = await runPass({
    shot,
    variant: shot.variants[0]!,
    pass,
    rung: 'test',
    out: folder,
    geometryFolder: folder,
    threads: 2,
    overwrite: [],
    json: true,
    running: () => undefined,
  });
  expect(outcome).toMatchObject({ state: 'done', error: null });
  const found: Golden = {};
  for (const name of readdirSync(folder)) {
    const plan = (await readRunRecord(join(folder, name)))?.plan as AnyPlan;
    found[kindOf(plan)] = { version: opsOf(plan).version, frames: contentsOf(join(folder, name)) };
  }
  return found;
}

it('frames of every kind are those of its version: where bits change, its version is raised', async () => {
  const found = { ...(await computed('gas', 'all')), ...(await computed('liquid', 'all')) };
  expect(Object.keys(found)).toHaveLength(11);
  if (process.env['RUDDLE_GOLDEN'] === 'write') writeFileSync(GOLDEN, `${JSON.stringify(found, null, 2)}\n`);
  const golden = JSON.parse(readFileSync(GOLDEN, 'utf8')) as Golden;
  const told = Object.entries(found).flatMap(([kind, { version, frames }]) => {
    const known = golden[kind];
    if (known?.version !== version) return [`${kind}: version ${version} is not written down yet. Run: npm run golden`];
    return known.frames === frames
      ? []
      : [`${kind}: its frames are others than those of version ${version}. Raise the version, or find out why they changed.`];
  });
  expect(told).toEqual([]);
  // Names decide about nothing.
  const renamed = (text: string): string =>
    text.replaceAll('"Mouth"', '"Spout"').replaceAll('"Column"', '"Block"').replaceAll('"Post"', '"Pole"');
  expect((await computed('gas', 'solve', renamed))['gas']).toEqual(found['gas']);
  expect((await computed('liquid', 'solve', renamed))['liquid']).toEqual(found['liquid']);
});
