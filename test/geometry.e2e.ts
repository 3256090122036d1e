import { mkdtemp, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import type { ElementHandle, Page } from 'puppeteer-core';
import { describe, expect, it } from 'vitest';
import { byLabel, press, pressText, runShort, sheetOf, shotOf, textOf, typeNumber, waitForText, withPage } from './page';

const solidsOf = async (page: Page, address: string) => sheetOf(await shotOf(page, address)).solids;

async function pick(page: Page, ...files: string[]): Promise<void> {
  // Below the open item, out of the sheet's sight.
  await page.waitForFunction(() => {
    const button = [...document.querySelectorAll('button')].find((b) => b.textContent === 'From a file…');
    button?.scrollIntoView({ block: 'center' });
    return button !== undefined;
  });
  const [chooser] = await Promise.all([page.waitForFileChooser(), pressText(page, /^From a file/)]);
  await chooser.accept(files);
}

describe('geometry from a file', () => {
  it('is imported with its unit, placed, measured, sliced, and met by a run', async () => {
    await withPage(async (page, address) => {
      const shot = await runShort(address, ['test']);
      await page.goto(`${address}/bench/${shot.slug}?group=solids`);
      await pick(page, resolve('demo/jaw.obj'));
      await waitForText(page, '[role=dialog]', /164 triangles/);
      // 150 units: centimetres are guessed, and can be overruled.
      expect(await textOf(page, '[role=dialog]')).toContain('0.24 m wide, 1.3 m high, 1.5 m deep');
      await press(page, 'A file unit is');
      await pressText(page, /^one millimetre/);
      await waitForText(page, '[role=dialog]', /13 cm high|0\.13 m high/);
      await press(page, 'A file unit is');
      await pressText(page, /^one centimetre/);
      await waitForText(page, '[role=dialog]', /1\.3 m high/);
      await pressText(page, /^Add as a solid$/);
      await expect
        .poll(() => solidsOf(page, address), { timeout: 8000 })
        .toMatchObject([{ name: 'jaw', shape: { kind: 'mesh', scale: 0.01, file: 'jaw.obj' } }]);
      for (const [axis, to] of Object.entries({ x: '1.6 m', y: '2 m', z: '1.6 m' })) await typeNumber(page, `Centre ${axis}, m`, to);
      await pressText(page, /^Measure the gap$/);
      await waitForText(page, '[aria-label=Gap]', /contact lies 0\.\d+ m from what is seen/);
      await press(page, 'Slice');
      await pressText(page, /^Slice across z$/);
      await press(page, 'Channel of the slice');
      await pressText(page, /^Solids' distance$/);
      await waitForText(page, 'main, body', /contact: a voxel of/);
      // Saffron in the viewport: the band where matter meets the solid.
      const canvas = (await page.waitForSelector('[data-testid=viewport]')) as ElementHandle;
      const box = (await canvas.boundingBox())!;
      const clip = { x: box.x + 120, y: box.y + 140, width: box.width - 360, height: box.height - 200 };
      const saffron = async (): Promise<number> =>
        await page.evaluate(
          async (data: string) => {
            const image = new Image();
            image.src = `data:image/png;base64,${data}`;
            await image.decode();
            const c = document.createElement('canvas');
            [c.width, c.height] = [image.width, image.height];
            const g = c.getContext('2d')!;
            g.drawImage(image, 0, 0);
            const d = g.getImageData(0, 0, c.width, c.height).data;
            let n = 0;
            for (let i = 0; i < d.length; i += 4) if (d[i]! > 150 && d[i + 1]! > 100 && d[i + 2]! < 80) n++;
            return n;
          },
          await page.screenshot({ clip, encoding: 'base64', captureBeyondViewport: false }),
        );
      await expect.poll(saffron, { timeout: 8000 }).toBeGreaterThan(300);
      await page.keyboard.press('Escape');
      await (await page.waitForSelector('button[data-rung=Test]:not([disabled])'))!.click();
      await expect.poll(async () => (await shotOf(page, address)).runs.map((r) => r.state), { timeout: 60_000 }).toEqual(['done', 'done']);
      expect((await shotOf(page, address)).runs[1]!.plan.options.solids[0]).toMatchObject({ body: 'filled', shape: { kind: 'mesh' } });
    });
  });

  it('several numbered point files become one source that emits in their frames', async () => {
    await withPage(async (page, address) => {
      const shot = await runShort(address, []);
      const folder = await mkdtemp(join(tmpdir(), 'ruddle-points-'));
      const files: string[] = [];
      for (let n = 3; n <= 6; n++) {
        const path = join(folder, `spray.${String(n).padStart(4, '0')}.ply`);
        const head = ['x', 'y', 'z', 'vx', 'vy', 'vz'].map((p) => `property float ${p}`).join('\n');
        await writeFile(
          path,
          `ply\nformat ascii 1.0\nelement vertex 2\n${head}\nend_header\n${String(0.8 + 0.1 * n)} 1 1 2.4 0 0\n1.6 2.4 1.6 0 0 0\n`,
        );
        files.push(path);
      }
      await page.goto(`${address}/bench/${shot.slug}?group=sources`);
      await pick(page, ...files);
      await waitForText(page, '[role=dialog]', /Points at 4 frames from 3/);
      expect(await textOf(page, '[role=dialog]')).toContain('8 points in 4 files, with velocities.');
      await pressText(page, /^Add as a source$/);
      await press(page, 'Point radius: set');
      await typeNumber(page, 'Point radius, m', '0.2 m');
      await expect
        .poll(async () => sheetOf(await shotOf(page, address)).sources[1], { timeout: 8000 })
        .toMatchObject({ name: 'spray', shape: { kind: 'mesh', content: 'points', starts: 3, pace: 24, seconds: 3, pointRadius: 0.2 } });
      await (await page.waitForSelector('button[data-rung=Test]:not([disabled])'))!.click();
      await expect.poll(async () => (await shotOf(page, address)).runs.map((r) => r.state), { timeout: 60_000 }).toEqual(['done']);
    });
  });

  it('says what is wrong with a file, and what was found in one that has holes', async () => {
    await withPage(async (page, address) => {
      const shot = await runShort(address, []);
      const folder = await mkdtemp(join(tmpdir(), 'ruddle-geometry-'));
      const empty = join(folder, 'empty.obj');
      const open = join(folder, 'open.obj');
      await writeFile(empty, '# nothing\n');
      await writeFile(open, 'v 0 0 0\nv 2 0 0\nv 2 0 2\nv 0 0 2\nf 4 3 2 1\n');
      await page.goto(`${address}/bench/${shot.slug}?group=sources`);
      await pick(page, empty);
      await waitForText(page, '[role=dialog] [role=alert]', /empty\.obj: it has no triangles/);
      await pressText(page, /^Close$/);
      await page.waitForFunction(() => !document.querySelector('[role=dialog]'));
      await pick(page, open);
      await waitForText(page, '[role=dialog]', /open surface without an inside/);
      await pressText(page, /^Add as a source$/);
      await expect
        .poll(async () => sheetOf(await shotOf(page, address)).sources.map((s) => [s.name, s.shell]), {
          timeout: 8000,
        })
        .toEqual([
          ['Source', null],
          ['open', expect.any(Number)],
        ]);
      expect(await byLabel(page, 'Surface only, m')).toBeTruthy();
    });
  });
});
