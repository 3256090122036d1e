import { mkdtemp, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import type { Page } from 'puppeteer-core';
import { describe, expect, it } from 'vitest';
import { byLabel, press, pressText, runShort, sheetOf, shotOf, start, typeNumber, waitForText, withPage } from './page';

/** Pixels of the viewport that are clearly red. */
async function redIn(page: Page): Promise<number> {
  const canvas = await page.waitForSelector('[data-testid=viewport]');
  const box = (await canvas?.boundingBox())!;
  const clip = { x: box.x + 60, y: box.y + 60, width: box.width - 120, height: box.height - 160 };
  const { data, info } = await sharp(await page.screenshot({ clip, captureBeyondViewport: false }))
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  let red = 0;
  for (let n = 0; n < data.length; n += info.channels)
    if (data[n]! > 90 && data[n]! > 2 * data[n + 1]! && data[n]! > 2 * data[n + 2]!) red++;
  return red;
}

describe('what a source gives its matter', () => {
  it('a colour that is carried and seen, and a picture that masks it', async () => {
    await withPage(async (page, address) => {
      const shot = await runShort(address, []);
      const settings = async () => sheetOf(await shotOf(page, address));
      await page.goto(`${address}/bench/${shot.slug}?group=matter`);
      await press(page, 'Carry colour');
      // One source, one colour: said, and not yet wrong.
      await waitForText(page, 'body', /1 ?finding/);
      await page.goto(`${address}/bench/${shot.slug}?group=sources`);
      await typeNumber(page, 'Colour, red', '0.9');
      await typeNumber(page, 'Colour, green', '0.05');
      await typeNumber(page, 'Colour, blue', '0.05');
      await expect.poll(async () => (await settings()).sources[0]!.colour).toEqual([0.9, 0.05, 0.05]);

      const folder = await mkdtemp(join(tmpdir(), 'ruddle-mask-'));
      const [broken, half] = [join(folder, 'broken.png'), join(folder, 'half.png')];
      await writeFile(broken, 'not a picture');
      // White on the left, black on the right.
      await sharp({ create: { width: 64, height: 64, channels: 3, background: '#000000' } })
        .composite([{ input: { create: { width: 32, height: 64, channels: 3, background: '#ffffff' } }, left: 0, top: 0 }])
        .png()
        .toFile(half);
      const pick = async (file: string): Promise<void> => {
        await byLabel(page, 'Mask on emission: set');
        const [chooser] = await Promise.all([page.waitForFileChooser(), press(page, 'Mask on emission: set')]);
        await chooser.accept([file]);
      };
      await pick(broken);
      await waitForText(page, 'body', /broken\.png: it cannot be read as a picture/);
      await pick(half);
      await page.waitForFunction(() => document.querySelector<HTMLImageElement>('img[alt="The mask half.png"]')?.naturalWidth === 64);
      await expect
        .poll(async () => (await settings()).sources[0]!.mask)
        .toMatchObject({ file: 'half.png', from: 'above', inverted: false });

      await start(page, 'Test');
      await expect.poll(async () => (await shotOf(page, address)).runs.map((r) => r.state), { timeout: 60_000 }).toEqual(['done']);
      const [run] = (await shotOf(page, address)).runs;
      expect(run!.plan.keep).toMatchObject({ channels: expect.arrayContaining(['colour']) as string[] });
      await press(page, 'Channel');
      await pressText(page, /^Colour$/);
      await expect.poll(() => redIn(page), { timeout: 15_000 }).toBeGreaterThan(400);
      await press(page, 'Channel');
      await pressText(page, /^Density$/);
      await expect.poll(() => redIn(page), { timeout: 15_000 }).toBeLessThan(100);
    });
  });
});
