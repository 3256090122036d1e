import { readFile, writeFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { describe, expect, inject, it } from 'vitest';
import type { ShotFile } from '../src/core/shot/index';
import { addShot, atRest, fileSettings, press, pressText, runsDone, shotOf, start, still, textOf, waitForText, withPage } from './page';

/** The demo shot, short and coarse. */
async function stack(): Promise<string> {
  const file = JSON.parse(await readFile(resolve('demo/kiln-stack.json'), 'utf8')) as ShotFile;
  const first = file.variants[0]!;
  const path = join(inject('data'), 'finer.json');
  const settings = fileSettings({ ...first.settings, passes: first.settings.passes.slice(0, 1) }, { detail: { voxelSize: 0.14 } });
  await writeFile(
    path,
    JSON.stringify({ ...file, name: 'Kiln stack, finer', lastFrame: 20, preRoll: 0, variants: [{ ...first, settings }] }),
  );
  return path;
}

describe('a coarse run that was approved', () => {
  it('becomes finer by added eddies and by a held solve, is looked at beside them, and how far they moved is read', async () => {
    await withPage(async (page, address) => {
      await addShot(page, address, await stack());
      await waitForText(page, 'h1', /Kiln stack, finer/);
      await atRest(page);
      for (const [kind, id] of [
        [/^Detail/, 'detail'],
        [/^Held solve/, 'held-solve'],
      ] as const) {
        await pressText(page, /Add a pass/);
        await still(page);
        await pressText(page, kind);
        await still(page);
        await waitForText(page, '[aria-label=Sizes]', /Test: voxels of 0\.14 m/);
        await start(page, 'Test');
        await page.waitForSelector(`[data-pass=${id}][data-state=fresh]`, { timeout: 120_000 });
      }
      const { slug } = await shotOf(page, address);
      const { passRuns, runs } = await runsDone(address, slug);
      // One solve for both: what both read was there.
      expect(runs).toHaveLength(1);
      expect(passRuns.map((r) => [r.kind, r.framesDone, r.plan.gives.voxelSizes[0]])).toEqual([
        ['detail', 20, 0.14],
        ['held', 20, 0.14],
      ]);
      // How far it moved, over the frames and in one number: the solve let free would be another plume.
      await page.waitForSelector('[data-testid=pass-results] [aria-label="Moved from the base over the frames"]');
      const { frames } = (await (await fetch(`${address}/api/runs/${passRuns[1]!.id}`)).json()) as {
        frames: { report: { apart: number; moved: { density: number } | null } }[];
      };
      const apart = frames.slice(1).map((f) => f.report.apart);
      expect(Math.max(...apart)).toBeLessThan(0.12);
      // Side by side: base, this one, the other.
      await pressText(page, /^Beside what it reads$/);
      await waitForText(page, '[data-testid=side-0]', /Base: Test, run 1/);
      await waitForText(page, '[data-testid=side-1]', /Held solve/);
      await waitForText(page, '[data-testid=side-2]', /Detail/);
      // Its energy over wavenumber, on the sheet.
      await press(page, 'Number over the frames');
      await pressText(page, /^Energy over wavenumber/);
      await page.waitForFunction(() =>
        /Energy over wavenumber|has no spectrum/.test(document.querySelector('[data-testid=pass-results]')?.textContent ?? ''),
      );
      expect(await textOf(page, '[data-testid=pass-results]')).not.toMatch(/undefined|NaN/);
    });
  });
});
