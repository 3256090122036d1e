import { existsSync, readdirSync } from 'node:fs';
import { mkdtemp, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import type { Page } from 'puppeteer-core';
import { describe, expect, it } from 'vitest';
import { addShot, press, pressText, sheetOf, shotOf, start, typeNumber, waitForRun, waitForText, withPage } from './page';

/** Bright pixels in the left and in the right half of the viewport, off the ground. */
async function halves(page: Page): Promise<[number, number]> {
  const canvas = await page.waitForSelector('[data-testid=viewport]');
  const box = (await canvas?.boundingBox())!;
  const clip = { x: box.x, y: box.y + 60, width: box.width, height: box.height - 190 };
  const { data, info } = await sharp(await page.screenshot({ clip, captureBeyondViewport: false }))
    .greyscale()
    .raw()
    .toBuffer({ resolveWithObject: true });
  const bright: [number, number] = [0, 0];
  for (let n = 0; n < data.length; n += info.channels) {
    // Smoke is a patch: its neighbours above and below are bright too.
    const [up, down] = [data[n - info.width] ?? 0, data[n + info.width] ?? 0];
    if (Math.min(data[n]!, up, down) > 110) bright[n % info.width < info.width / 2 ? 0 : 1]++;
  }
  return bright;
}

describe('bounds beside', () => {
  it('are added around what lies far, computed side by side, and seen together; the Sketch has them too', async () => {
    await withPage(async (page, address) => {
      const source = (name: string, x: number): object => ({ name, shape: { kind: 'ball', centre: [x, 0.8, 0], radius: 0.5 }, heat: 200 });
      const path = join(await mkdtemp(join(tmpdir(), 'ruddle-beside-')), 'apart.json');
      await writeFile(
        path,
        JSON.stringify({
          ruddle: 1,
          name: 'Far apart',
          lastFrame: 10,
          variants: [
            {
              name: 'One',
              settings: {
                detail: { voxelSize: 0.08 },
                bounds: { limit: { min: [-2, 0, -2], max: [2, 4, 2] } },
                sources: [source('Near', 0), source('Far', 12)],
              },
            },
          ],
        }),
      );
      await addShot(page, address, path);
      await waitForText(page, 'h1', /Far apart/);
      // It is outside of the only bounds there are.
      await waitForText(page, 'body', /1 ?finding/);
      await page.goto(`${page.url()}?group=bounds`);
      await pressText(page, /^Bounds/);
      await page.waitForFunction(() => {
        const found = document.querySelector('[aria-label="Bounds beside"]');
        found?.scrollIntoView({ block: 'start' });
        return found !== null;
      });
      await pressText(page, /^Add bounds around/);
      await pressText(page, /^Far$/);
      await waitForText(page, '[role=group][aria-label=Far]', /With Far\./);
      await waitForText(page, 'body', /0 ?findings/);
      await press(page, 'Own voxel size: set');
      await typeNumber(page, 'Own voxel size, m', '0.12 m');
      await expect.poll(async () => sheetOf(await shotOf(page, address)).bounds.beside).toMatchObject([{ name: 'Far', voxelSize: 0.12 }]);

      await start(page, 'Test');
      await expect.poll(async () => (await shotOf(page, address)).runs.map((r) => r.state), { timeout: 60_000 }).toEqual(['done']);
      const [run] = (await shotOf(page, address)).runs;
      expect(run!.plan.beside.map((o) => o.voxelSize)).toEqual([0.24]);
      expect(readdirSync(run!.folder).filter((f) => f.endsWith('.vdb'))).toHaveLength(20);
      expect(existsSync(join(run!.folder, 'solve-2.0010.vdb'))).toBe(true);
      // What the pointer is over tells about itself, and lies over what is below.
      await page.mouse.move(640, 400);
      await pressText(page, /^Camera$/);
      await pressText(page, /^Frame all$/);
      const inBoth = async (): Promise<number> => Math.min(...(await halves(page)));
      await expect.poll(inBoth, { timeout: 15_000 }).toBeGreaterThan(60);

      await start(page, 'Sketch');
      await waitForRun(page, /follows every change/, 60_000);
      await expect.poll(inBoth, { timeout: 15_000 }).toBeGreaterThan(60);

      // Taken away again, it is outside as before.
      await press(page, 'Remove the bounds Far');
      await waitForText(page, 'body', /1 ?finding/);
    });
  });
});
