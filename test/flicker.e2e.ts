import { readFile, writeFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import type { Page } from 'puppeteer-core';
import { describe, expect, inject, it } from 'vitest';
import type { ShotFile } from '../src/core/shot/index';
import { addShot, fileSettings, pictureOf, press, start, waitForRun, waitForText, withPage } from './page';

/** How many colours there are in a part of a picture: a canvas that is empty has one, and what lies over it some. */
async function coloursIn(page: Page, png: string, selector: string, part: readonly [number, number, number, number]): Promise<number> {
  return await page.evaluate(
    async (data: string, s: string, [left, top, wide, high]: readonly [number, number, number, number]) => {
      const image = new Image();
      image.src = `data:image/png;base64,${data}`;
      await image.decode();
      const box = document.querySelector(s)!.getBoundingClientRect();
      const canvas = new OffscreenCanvas(Math.round(box.width), Math.round(box.height));
      const context = canvas.getContext('2d', { willReadFrequently: true })!;
      context.drawImage(image, -box.x, -box.y);
      const [x, y] = [Math.round(box.width * left), Math.round(box.height * top)];
      const pixels = context.getImageData(x, y, Math.round(box.width * wide), Math.round(box.height * high)).data;
      const colours = new Set<number>();
      for (let n = 0; n < pixels.length; n += 4) colours.add((pixels[n]! << 16) | (pixels[n + 1]! << 8) | pixels[n + 2]!);
      return colours.size;
    },
    png,
    selector,
    part,
  );
}

/** Left, top, width and height as parts of the element. In the viewport other things lie over the edges; in the strip the first frames stand at its left. */
const MIDDLE = [0.25, 0.35, 0.5, 0.45] as const;
const BARS = [0.02, 0.35, 0.96, 0.45] as const;

describe('what stands on the screen', () => {
  it('stays until the next picture is whole: fifty pictures of a run that computes, through resizes and at its end, none of them empty', async () => {
    const file = JSON.parse(await readFile(resolve('demo/kiln-stack.json'), 'utf8')) as ShotFile;
    const path = join(inject('data'), 'flicker.json');
    const variants = file.variants.slice(0, 1).map((v) => ({ ...v, settings: fileSettings(v.settings, { detail: { voxelSize: 0.08 } }) }));
    await writeFile(path, JSON.stringify({ ...file, name: 'Watched stack', variants }));
    await withPage(async (page, address) => {
      await addShot(page, address, path);
      await waitForText(page, 'h1', /Watched stack/);
      await start(page, 'Test');
      await waitForRun(page, /computing, ([2-9]|\d\d) of 120/, 60_000);
      const seen: { viewport: number; strip: number; at: string }[] = [];
      for (let n = 0; n < 50; n++) {
        // The window is made narrower and wider, as a hand would drag its corner; the picture is taken at once.
        if (n % 5 === 3) await page.setViewport({ width: 1280 - (n % 2) * 160, height: 800 - (n % 3) * 60 });
        const png = await pictureOf(page);
        const at = `picture ${String(n)}: ${await page.$eval('[data-testid=run-state]', (e) => e.textContent ?? '')}`;
        seen.push({
          viewport: await coloursIn(page, png, '[data-testid=viewport]', MIDDLE),
          strip: await coloursIn(page, png, '[data-testid=frame-strip]', BARS),
          at,
        });
      }
      expect(seen.filter((s) => s.viewport < 30 || s.strip < 3)).toEqual([]);
      await press(page, 'Cancel').catch(() => undefined);
    });
  });
});
