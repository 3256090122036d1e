import { mkdtemp, readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import type { Page } from 'puppeteer-core';
import { describe, expect, it } from 'vitest';
import type { ShotFile } from '../src/core/shot/index';
import {
  addShot,
  byLabel,
  fileSettings,
  press,
  pressText,
  runsDone,
  sheetOf,
  shotOf,
  start,
  typeNumber,
  waitForText,
  withPage,
} from './page';

/** The door of the demo, short and coarse. */
async function door(): Promise<string> {
  const file = JSON.parse(await readFile(resolve('demo/kiln-door.json'), 'utf8')) as ShotFile;
  const path = join(await mkdtemp(join(tmpdir(), 'ruddle-door-')), 'door.json');
  const variants = file.variants.map((v) => ({ ...v, settings: fileSettings(v.settings, { detail: { voxelSize: 0.1 } }) }));
  await writeFile(path, JSON.stringify({ ...file, name: 'Short door', lastFrame: 14, variants }));
  return path;
}

type Move = { kind: string; limits?: [number, number] | undefined; keys?: { frame: number; value: number; then: string }[]; text?: string };
const moveOf = async (page: Page, address: string, name: string): Promise<Move | undefined> => {
  return sheetOf(await shotOf(page, address)).sources[0]!.moves[name];
};

/** Where a frame and a part of the plot's height (0 at its foot) are on the screen. */
async function onCurve(page: Page, frame: number, part: number): Promise<{ x: number; y: number }> {
  const box = (await (await page.waitForSelector('[data-testid=move-curve] svg'))!.boundingBox())!;
  const [k, last] = [box.width / 720, 14];
  return { x: box.x + k * (64 + ((frame - 1) / (last - 1)) * (706 - 64)), y: box.y + k * (244 - part * (244 - 12)) };
}

describe('a number that moves', () => {
  it('is drawn as a curve: keys added, dragged, picked by a box, typed, taken out; one undo each', async () => {
    await withPage(async (page, address) => {
      await addShot(page, address, await door());
      await waitForText(page, 'h1', /Short door/);
      await page.goto(`${page.url().split('?')[0]!}?group=sources`);
      await press(page, 'Noise: make it move');
      await waitForText(page, '[role=dialog]', /It stays as it is/);
      await pressText(page, /^Keys$/);
      await waitForText(page, '[role=dialog]', /Double-click adds a key/);
      const there = await onCurve(page, 9, 0.5);
      await page.mouse.click(there.x, there.y, { count: 2 });
      await expect
        .poll(async () => (await moveOf(page, address, 'noise.amount'))?.keys?.map((k) => k.frame), { timeout: 8000 })
        .toEqual([1, 9]);
      // The new key is picked: its numbers are there to be typed.
      await typeNumber(page, 'Value of the key', '0.25');
      await typeNumber(page, 'Frame of the key', '7');
      await expect
        .poll(async () => (await moveOf(page, address, 'noise.amount'))?.keys?.map((k) => [k.frame, k.value]), { timeout: 8000 })
        .toEqual([
          [1, 0.8],
          [7, 0.25],
        ]);
      const keyAt = async (n: number): Promise<{ x: number; y: number }> => {
        const box = (await (await page.waitForSelector(`[data-key="${String(n)}"]`))!.boundingBox())!;
        return { x: box.x + box.width / 2, y: box.y + box.height / 2 };
      };
      const second = await keyAt(1);
      const goal = await onCurve(page, 11, 0.9);
      await page.mouse.move(second.x, second.y);
      await page.mouse.down();
      await page.mouse.move(goal.x, goal.y, { steps: 8 });
      await page.mouse.up();
      await expect.poll(async () => (await moveOf(page, address, 'noise.amount'))?.keys?.[1]?.frame, { timeout: 8000 }).toBe(11);
      // Both picked by a box, moved by the keyboard, one frame on.
      const [low, high] = [await onCurve(page, 0.6, -0.02), await onCurve(page, 13.4, 1.04)];
      await page.mouse.move(low.x, low.y);
      await page.mouse.down();
      await page.mouse.move(high.x, high.y, { steps: 6 });
      await page.mouse.up();
      await page.focus('[data-testid=move-curve]');
      await page.keyboard.press('ArrowRight');
      await expect
        .poll(async () => (await moveOf(page, address, 'noise.amount'))?.keys?.map((k) => k.frame), { timeout: 8000 })
        .toEqual([2, 12]);
      await pressText(page, /^Close$/);
      await press(page, 'Undo');
      await expect
        .poll(async () => (await moveOf(page, address, 'noise.amount'))?.keys?.map((k) => k.frame), { timeout: 8000 })
        .toEqual([1, 11]);
    });
  });

  it('is typed as an expression: mistakes say their column and change nothing; the run follows it', async () => {
    await withPage(async (page, address) => {
      await addShot(page, address, await door());
      await waitForText(page, 'h1', /Short door/);
      await page.goto(`${page.url().split('?')[0]!}?group=sources`);
      await press(page, 'Fuel: its curve');
      await pressText(page, /^Expression$/);
      const field = await byLabel(page, 'Expression over time');
      const type = async (text: string): Promise<void> => {
        await field.click({ count: 3 });
        await page.keyboard.type(text);
      };
      await type('value * tim');
      await waitForText(page, '[role=dialog]', /Column 9: "tim" is not known/);
      await type('sources[0].fuel + 1');
      await waitForText(page, '[role=dialog]', /a circle: sources\[0\]\.fuel/);
      // Neither of them came onto the sheet: what is there is what "Expression" began with.
      expect(await moveOf(page, address, 'fuel')).toMatchObject({ kind: 'expression', text: 'value' });
      await type('1.5 * smoothstep(2, 8, frame)');
      await waitForText(page, '[role=dialog]', /curve shows/);
      await expect.poll(async () => (await moveOf(page, address, 'fuel'))?.text, { timeout: 8000 }).toBe('1.5 * smoothstep(2, 8, frame)');
      // A number that is none somewhere: a finding at its frame, and its remedy.
      const before = (await moveOf(page, address, 'fuel'))?.text;
      await type('1 / (frame - 7)');
      await pressText(page, /^Close$/);
      await expect.poll(async () => (await moveOf(page, address, 'fuel'))?.text, { timeout: 8000 }).toBe('1 / (frame - 7)');
      await pressText(page, /findings?$/);
      await waitForText(page, '[data-testid=findings]', /sources\[0\]\.fuel has no number at frame 7: a division by zero \(column 3\)/);
      await start(page, 'Test');
      await waitForText(page, 'body', /cannot be computed/);
      expect((await shotOf(page, address)).runs).toEqual([]);
      // A number that leaves its range, and the remedy that holds it there.
      await press(page, 'Undo');
      await expect.poll(async () => (await moveOf(page, address, 'fuel'))?.text, { timeout: 8000 }).toBe(before);
      await press(page, 'Fuel: its curve');
      await (await byLabel(page, 'Expression over time')).click({ count: 3 });
      await page.keyboard.type('400 * frame');
      await pressText(page, /^Close$/);
      await waitForText(page, '[data-testid=findings]', /sources\[0\]\.fuel is 1100 at frame 3; it can be -1000 to 1000/);
      await pressText(page, /held within -1000 to 1000/);
      await expect.poll(async () => (await moveOf(page, address, 'fuel'))?.limits, { timeout: 8000 }).toEqual([-1000, 1000]);
      await page.waitForFunction(() => !document.querySelector('[data-testid=findings]')?.textContent?.includes('it can be -1000'));
      await press(page, 'Undo');
      await press(page, 'Undo');
      await expect.poll(async () => (await moveOf(page, address, 'fuel'))?.text, { timeout: 8000 }).toBe(before);
      await start(page, 'Test');
      await expect.poll(async () => (await shotOf(page, address)).runs.length, { timeout: 20_000 }).toBe(1);
      const run = (await runsDone(address, (await shotOf(page, address)).slug)).runs[0]!;
      const { frames } = (await (await fetch(`${address}/api/runs/${run.id}`)).json()) as {
        frames: { frame: number; report: { mass: { burning: number }; substepSpeed: number } }[];
      };
      const burnt = (f: number): number => frames.find((r) => r.frame === f)!.report.mass.burning;
      expect(burnt(2)).toBe(0);
      expect(burnt(12)).toBeGreaterThan(0);
      // The door's edge swings: the substeps know its speed.
      expect(frames.find((r) => r.frame === 12)!.report.substepSpeed).toBeGreaterThan(2);
    });
  });
});
