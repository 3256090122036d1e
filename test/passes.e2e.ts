import { existsSync, readFileSync } from 'node:fs';
import { readFile, writeFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import type { Page } from 'puppeteer-core';
import { describe, expect, inject, it } from 'vitest';
import type { ShotFile } from '../src/core/shot/index';
import type { ShotDto } from '../src/protocol/index';
import {
  addShot,
  atRest,
  fileSettings,
  pictureOf,
  press,
  pressText,
  shotOf,
  smokeIn,
  start,
  still,
  textOf,
  typeNumber,
  waitForRun,
  waitForText,
  withPage,
} from './page';

/** The demo shot, short and coarse. */
async function stack(): Promise<string> {
  const file = JSON.parse(await readFile(resolve('demo/kiln-stack.json'), 'utf8')) as ShotFile;
  const first = file.variants[0]!;
  const path = join(inject('data'), 'passes.json');
  const settings = fileSettings({ ...first.settings, passes: first.settings.passes.slice(0, 1) }, { detail: { voxelSize: 0.15 } });
  await writeFile(
    path,
    JSON.stringify({ ...file, name: 'Kiln stack, passes', lastFrame: 30, preRoll: 0, variants: [{ ...first, settings }] }),
  );
  return path;
}

/** Part of the viewport that is not as it was, and where its middle is. */
async function changedIn(page: Page, yard: string): Promise<{ part: number; x: number; y: number }> {
  const box = (await (await page.waitForSelector('[data-testid=viewport]'))!.boundingBox())!;
  const clip = { x: box.x, y: box.y + 60, width: box.width, height: box.height - 140 };
  return await page.evaluate(
    async (now: string, before: string, c: { x: number; y: number; width: number; height: number }) => {
      const pixels = async (data: string): Promise<Uint8ClampedArray> => {
        const image = new Image();
        image.src = `data:image/png;base64,${data}`;
        await image.decode();
        const canvas = new OffscreenCanvas(Math.round(c.width), Math.round(c.height));
        const g = canvas.getContext('2d')!;
        g.drawImage(image, -c.x, -c.y);
        return g.getImageData(0, 0, canvas.width, canvas.height).data;
      };
      const [a, b] = [await pixels(now), await pixels(before)];
      const width = Math.round(c.width);
      let [count, x, y] = [0, 0, 0];
      for (let n = 0; n < a.length; n += 4) {
        if (Math.abs(a[n]! - b[n]!) + Math.abs(a[n + 1]! - b[n + 1]!) + Math.abs(a[n + 2]! - b[n + 2]!) < 60) continue;
        count++;
        x += (n / 4) % width;
        y += Math.floor(n / 4 / width);
      }
      return { part: count / (a.length / 4), x: x / Math.max(1, count) / width, y: y / Math.max(1, count) / Math.round(c.height) };
    },
    await pictureOf(page),
    yard,
    clip,
  );
}

const chip = (id: string): string => `[data-pass=${id}]`;
const stateOf = (page: Page, id: string): Promise<string | null> => page.$eval(chip(id), (e) => e.getAttribute('data-state'));
const waitForState = async (page: Page, id: string, state: string): Promise<void> => {
  await page.waitForSelector(`${chip(id)}[data-state=${state}]`);
};
const add = async (page: Page, kind: RegExp): Promise<void> => {
  await pressText(page, /Add a pass/);
  await still(page);
  await pressText(page, kind);
  await still(page);
};
const passRun = (shot: ShotDto, id: string) => shot.passRuns.findLast((r) => r.passId === id)!;

describe('passes', () => {
  it('resample and particles over a solve, both looked at; a change says what it makes stale; a still of each frame', async () => {
    await withPage(async (page, address) => {
      await addShot(page, address, await stack());
      await waitForText(page, 'h1', /Kiln stack, passes/);
      await atRest(page);
      const yard = await pictureOf(page);

      // A pass before there is any solve: that is computed first, by itself.
      await add(page, /^Resample/);
      await waitForText(page, '[role=tabpanel]', /A cache at another voxel size/);
      await start(page, 'Test');
      await waitForRun(page, /^(waits for run 1|computing, \d+ of 30)$/);
      await waitForRun(page, /^fresh, /, 120_000);
      expect(await stateOf(page, 'solve')).toBe('fresh');
      await waitForText(page, '[data-testid=pass-facts]', /^[\d.]+ k? ?voxels of [\d.]+ k? ?/);
      await atRest(page);
      const smoke = await smokeIn(page, yard);
      expect(smoke.part).toBeGreaterThan(0.0005);

      // Particles of the same solve: it is not computed again.
      await add(page, /^Particles/);
      await start(page, 'Test');
      await waitForRun(page, /^fresh, /, 60_000);
      await waitForText(page, '[data-testid=pass-facts]', /particles, .* new/);
      await atRest(page);
      const swarm = await changedIn(page, yard);
      expect(swarm.part).toBeGreaterThan(0.0005);
      // Where the smoke is.
      expect(Math.hypot(swarm.x - smoke.x, swarm.y - smoke.y)).toBeLessThan(0.12);
      const shot = await shotOf(page, address);
      expect(shot.runs).toHaveLength(1);
      const [coarse, sparks] = [passRun(shot, 'resample'), passRun(shot, 'particles')];
      expect([coarse.inputs, sparks.inputs]).toEqual([[shot.runs[0]!.id], [shot.runs[0]!.id]]);
      expect(existsSync(join(coarse.folder, 'resample.0030.vdb'))).toBe(true);
      expect(readFileSync(join(sparks.folder, 'particles.0030.ply')).subarray(0, 36).toString('latin1')).toBe(
        'ply\nformat binary_little_endian 1.0\n',
      );

      // An earlier frame has fewer of them.
      const now = Number(/([\d.]+) k? ?particles/.exec(await textOf(page, '[data-testid=pass-facts]'))![1]);
      for (let n = 0; n < 12; n++) await page.keyboard.press(',');
      await waitForText(page, '[data-testid=frame-number]', /^18 /);
      await page.waitForFunction(
        (most: number) =>
          Number(/([\d.]+) k? ?particles/.exec(document.querySelector('[data-testid=pass-facts]')?.textContent ?? '')?.[1] ?? 1e9) < most,
        {},
        now,
      );

      // Its own settings make it stale alone, the solve's all of them; the sheet says which before anything is changed, and the chips after.
      const note = '[role=note][aria-label="What a change makes stale"]';
      await waitForText(page, note, /makes stale: Particles \(Test\)\./);
      await typeNumber(page, 'Age limit, s', '1');
      await waitForState(page, 'particles', 'stale');
      await waitForText(page, '[data-testid=stale-because]', /its own settings/);
      expect(await stateOf(page, 'resample')).toBe('fresh');
      await page.click(chip('solve'));
      // The particles are stale already: no loss.
      await waitForText(page, note, /makes stale: Solve and Resample \(Test\)\. *Again: about /);
      await typeNumber(page, 'Voxel size, m', '16cm');
      await waitForState(page, 'solve', 'stale');
      await waitForState(page, 'resample', 'stale');
      await page.click(chip('resample'));
      await waitForText(page, '[data-testid=stale-because]', /Solve, which it reads, has other settings/);
      await waitForText(page, '[data-testid=pass-costs]', /Test.*after .* for what it reads/);
      await press(page, 'Undo');
      await press(page, 'Undo');
      await waitForState(page, 'resample', 'fresh');
      await waitForState(page, 'particles', 'fresh');

      // A still of each frame, from the resampled cache.
      await add(page, /^Stills/);
      await start(page, 'Test');
      await waitForRun(page, /^fresh, /, 90_000);
      await page.waitForFunction(() => document.querySelector<HTMLImageElement>('img[alt="Frame 18"]')?.naturalWidth === 640);

      // It is there after a reload, at the same pass and run.
      const url = page.url();
      await page.reload();
      await waitForText(page, '[data-testid=pass-facts]', /covered, .* samples/);
      expect(page.url()).toBe(url);
    });
  }, 300_000);

  it('a pass that cannot be computed says why and offers no start; switched on again it does', async () => {
    await withPage(async (page, address) => {
      await addShot(page, address, await stack());
      await waitForText(page, 'h1', /Kiln stack, passes/);
      await add(page, /^Particles/);
      await page.waitForSelector('button[data-rung=Test]:not([disabled])');
      await page.click(chip('solve'));
      await pressText(page, /^Keep/);
      await press(page, 'Velocity');
      await page.click(chip('particles'));
      await waitForText(page, '[role=tabpanel] [role=alert]', /It needs velocity, which is not kept in what it reads/);
      await page.waitForSelector('button[data-rung=Test][disabled]');
      await press(page, 'Undo');
      await page.waitForSelector('button[data-rung=Test]:not([disabled])');
    });
  });
});
