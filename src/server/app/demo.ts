import { readFile, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { parseShotFile } from '#core/shot';
import type { GeometryStore } from './geometry';
import type { Runner } from './runner';
import type { ShotStore } from './shots';

/** What the README walks through is there first. */
const FIRST = 'kiln-stack.json';
/** Passes that make a Test finer, or a skin of it: the demo has them to look at. */
const FINER: readonly string[] = ['detail', 'held', 'surface'];

/** At the first start: every shot file of the demo folder, and a Test run of each of its variants; the one of the README's walk first. */
export async function loadDemo(shots: ShotStore, geometry: GeometryStore, runner: Runner, folder: string): Promise<void> {
  if (await shots.any()) return;
  const stored = join(folder, 'geometry');
  for (const file of await readdir(stored).catch(() => []))
    await geometry.keep(file.split('.')[0] ?? '', await readFile(join(stored, file)));
  const files = (await readdir(folder))
    .filter((f) => f.endsWith('.json'))
    .sort((a, b) => Number(b === FIRST) - Number(a === FIRST) || b.localeCompare(a));
  for (const file of files) {
    const shot = await shots.add(parseShotFile(await readFile(join(folder, file), 'utf8'), file));
    for (const variant of shot.variants) await shots.startRun(variant.id, 'test', runner);
    for (const variant of shot.variants)
      for (const { id } of variant.settings.passes.filter((p) => FINER.includes(p.kind)))
        await shots.startRun(variant.id, 'test', runner, { pass: id });
  }
}
