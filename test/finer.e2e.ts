import { readFile, writeFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { describe, expect, inject, it } from 'vitest';
import { type PassSettings, type ShotFile, passSchema } from '../src/core/shot/index';
import {
  addShot,
  atRest,
  fileSettings,
  press,
  pressText,
  runsDone,
  shotOf,
  start,
  still,
  textOf,
  typeNumber,
  waitForText,
  withPage,
} from './page';

/** The demo shot, short and coarse. */
async function stack(...own: PassSettings[]): Promise<string> {
  const file = JSON.parse(await readFile(resolve('demo/kiln-stack.json'), 'utf8')) as ShotFile;
  const first = file.variants[0]!;
  const path = join(inject('data'), 'finer.json');
  const settings = fileSettings(
    { ...first.settings, passes: [...first.settings.passes.slice(0, 1), ...own] },
    { detail: { voxelSize: 0.14 } },
  );
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
      await pressText(page, /^Beside what it reads$/);
      // What is told of the whole: coarse and finer, or a solve as fine.
      await waitForText(page, '[data-testid=coarse-or-fine]', /To voxels of 0\.07 m.*Final and Held solve.*Solved as fine/);
      // Its energy over wavenumber, on the sheet.
      await press(page, 'Number over the frames');
      await pressText(page, /^Energy over wavenumber/);
      await page.waitForFunction(() =>
        /Energy over wavenumber|has no spectrum/.test(document.querySelector('[data-testid=pass-results]')?.textContent ?? ''),
      );
      expect(await textOf(page, '[data-testid=pass-results]')).not.toMatch(/undefined|NaN/);
    });
  });

  it('is sketched before it is computed: eight frames that follow every change, from the Test that it reads', async () => {
    await withPage(async (page, address) => {
      await addShot(page, address, await stack(passSchema.parse({ id: 'fine', kind: 'detail', name: 'Fine' })));
      await waitForText(page, 'h1', /Kiln stack, finer/);
      await atRest(page);
      await pressText(page, /^Fine/);
      await still(page);
      // Nothing to start from yet.
      await start(page, 'Sketch');
      await waitForText(page, '[role=alert]', /no whole run of that is there: start its Test first/);
      await start(page, 'Sketch');
      await pressText(page, /^Solve/);
      await start(page, 'Test');
      await runsDone(address, (await shotOf(page, address)).slug);
      await pressText(page, /^Fine/);
      await still(page);
      await start(page, 'Sketch');
      await waitForText(page, '[data-testid=run-state]', /^follows every change$/, 90_000);
      await waitForText(page, '[data-testid=sketch-bar]', /Sketch, frames 13 to 20.*from the Test that it reads/);
      await atRest(page);
      await waitForText(page, '[data-testid=frame-number]', /^20 /);
      await waitForText(page, '[data-testid=pass-facts]', /voxels, added up to/);
      const before = await textOf(page, '[data-testid=pass-facts]');
      // A change is computed anew; without strength nothing is added.
      await typeNumber(page, 'Strength', '0');
      await waitForText(page, '[data-testid=run-state]', /^\d+ of 20$/);
      await waitForText(page, '[data-testid=run-state]', /^follows every change$/, 90_000);
      await waitForText(page, '[data-testid=pass-facts]', /added up to 0 m\/s/);
      expect(before).not.toMatch(/added up to 0 m\/s/);
      // Nothing of it is a run.
      expect((await shotOf(page, address)).passRuns).toEqual([]);
      await pressText(page, /^End$/);
      await page.waitForFunction(() => !document.querySelector('[data-testid=sketch-bar]'));
    });
  });

  it('feeds particles: many more around a few, and gas off them', async () => {
    await withPage(async (page, address) => {
      await addShot(page, address, await stack());
      await atRest(page);
      for (const [kind, id] of [
        [/^Particles/, 'particles'],
        [/^Refill/, 'refill'],
        [/^Gas from particles/, 'gas-from-particles'],
      ] as const) {
        await pressText(page, /Add a pass/);
        await still(page);
        await page.evaluate((source) => {
          const item = [...document.querySelectorAll<HTMLElement>('[role=menuitem]')].find((e) =>
            new RegExp(source).test(e.textContent ?? ''),
          );
          item?.click();
        }, kind.source);
        await still(page);
        await page.waitForSelector(`[data-pass=${id}][aria-selected=true]`);
        if (id === 'particles') await typeNumber(page, 'Born a second', '2000');
        await start(page, 'Test');
        await page.waitForSelector(`[data-pass=${id}][data-state=fresh]`, { timeout: 120_000 });
      }
      const { passRuns, runs } = await runsDone(address, (await shotOf(page, address)).slug);
      const [sparks, spray, dust] = passRuns;
      // Each reads the particles before it; what carries them is the solve, solved once.
      expect(runs).toHaveLength(1);
      expect([spray!.inputs, dust!.inputs]).toEqual([[sparks!.id, runs[0]!.id], [spray!.id]]);
      await waitForText(page, '[data-testid=pass-facts]', /voxels, [\d.]+ [kM] particles/);
      await atRest(page);
      await pressText(page, /^Refill/);
      await waitForText(page, '[data-testid=pass-facts]', /particles around/);
    });
  });
});
