import { existsSync, readdirSync } from 'node:fs';
import { readFile, writeFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import type { Page } from 'puppeteer-core';
import { describe, expect, inject, it } from 'vitest';
import {
  addShot,
  atRest,
  byLabel,
  fileSettings,
  pictureOf,
  press,
  shotOf,
  smokeIn,
  start,
  textOf,
  typeNumber,
  waitForRun,
  waitForText,
  withPage,
} from './page';

const DEMO = resolve('demo/kiln-stack.json');
const FRAME = '[data-testid=frame-number]';

const scrubTo = async (page: Page, part: number): Promise<void> => {
  const strip = await page.waitForSelector('[data-testid=frame-strip]');
  const box = (await strip!.boundingBox())!;
  await page.mouse.click(box.x + 14 + (box.width - 28) * part, box.y + box.height / 2);
};

describe('from settings to a picture', () => {
  it('open, change the voxel size, Test, watch, scrub, Final, find the files', async () => {
    await withPage(async (page, address) => {
      await addShot(page, address, DEMO);
      await waitForText(page, 'h1', /Kiln stack/);
      // The voxel size is typed with a unit; the variant becomes a draft.
      await typeNumber(page, 'Voxel size, m', '24cm');
      await waitForText(page, 'header', /draft, 1 edit/);
      await atRest(page);
      const yard = await pictureOf(page);
      expect((await smokeIn(page, yard)).part).toBe(0);
      await start(page, 'Test');
      await waitForRun(page, /computing, \d+ of 120/);
      // Frames can be looked at while it computes, and it goes on through a reload.
      await waitForRun(page, /computing, (2[6-9]|[3-9]\d|1\d\d) of 120/);
      await atRest(page);
      expect((await smokeIn(page, yard)).part).toBeGreaterThan(0.0005);
      await page.reload();
      await waitForRun(page, /(computing|fresh)/);
      await waitForRun(page, /^fresh$/, 120_000);

      // Is it smoke, and does it move with the wind? The picture frames what it has shown so far: the widest frame first, so that all are seen from one place,
      // the first frame among them, which stands for the empty yard.
      await scrubTo(page, 0.98);
      await atRest(page);
      await scrubTo(page, 0);
      await waitForText(page, FRAME, /^1 /);
      await atRest(page);
      const bare = await pictureOf(page);
      await scrubTo(page, 0.35);
      await atRest(page);
      const early = await smokeIn(page, bare);
      await scrubTo(page, 0.98);
      await atRest(page);
      const late = await smokeIn(page, bare);
      expect(late.part).toBeGreaterThan(early.part * 1.5);
      expect(late.x).toBeGreaterThan(early.x + 0.01);
      // Lit and with depth: neither flat white nor black.
      expect(late.brightness).toBeGreaterThan(0.3);
      expect(late.brightness).toBeLessThan(0.9);
      expect(late.contrast).toBeGreaterThan(0.08);

      // Keys step the frame; the address says which.
      const before = Number((await textOf(page, FRAME)).split(' ')[0]);
      await page.keyboard.press(',');
      await waitForText(page, FRAME, new RegExp(`^${String(before - 1)} `));
      expect(new URL(page.url()).searchParams.get('frame')).toBe(String(before - 1));
      // Playing goes on by itself.
      await page.keyboard.press('Space');
      await page.waitForFunction(
        (n: number) => !document.querySelector('[data-testid=frame-number]')?.textContent?.startsWith(`${String(n)} `),
        {},
        before - 1,
      );
      await page.keyboard.press('Space');

      // Other settings on the sheet: the cache is stale, and which setting differs is said. Undo makes it fresh again.
      await typeNumber(page, 'Voxel size, m', '0.3');
      await waitForText(page, '[data-testid=stale]', /Voxel size 0\.24 m → 0\.3 m/);
      await press(page, 'Undo');
      await waitForRun(page, /^fresh$/);

      // The Final, with its cache on the disk as open files.
      await typeNumber(page, 'Voxel size, m', '0.4');
      await waitForText(page, 'header', /draft, 1 edit/);
      await start(page, 'Final');
      await waitForText(page, 'header', /Voxel size 0\.4 m/);
      await waitForRun(page, /^fresh$/, 180_000);
      const shot = await shotOf(page, address);
      const final = shot.runs.find((r) => r.rung === 'final')!;
      expect(shot.variants.find((v) => v.id === final.variantId)).toMatchObject({ name: 'Voxel size 0.4 m', frozen: true });
      expect(final.folder.startsWith(inject('data'))).toBe(true);
      const files = readdirSync(final.folder).filter((f) => f.endsWith('.vdb'));
      expect(files).toHaveLength(96);
      const record = JSON.parse(await readFile(join(final.folder, 'run.json'), 'utf8')) as { state: string; frames: unknown[] };
      expect(record).toMatchObject({ state: 'done' });
      expect(record.frames).toHaveLength(120);

      // Its path is copied with one click; freeing can be undone.
      await page.evaluate(() => {
        navigator.clipboard.writeText = (text: string) => {
          document.body.dataset['copied'] = text;
          return Promise.resolve();
        };
      });
      await press(page, "Copy the cache's path");
      await page.waitForFunction((path: string) => document.body.dataset['copied'] === path, {}, final.folder);
      await press(page, "Free this run's cache");
      await waitForRun(page, /missing|done/);
      await page.waitForFunction(() => document.body.textContent?.includes('is freed'));
      expect(existsSync(final.folder)).toBe(false);
      await press(page, 'Bring back');
      await waitForRun(page, /^fresh$/);
      expect(existsSync(final.folder)).toBe(true);
    });
  });

  it('cancel answers at once and keeps frames; a slice and other channels can be looked at', async () => {
    await withPage(async (page, address) => {
      await addShot(page, address, DEMO);
      await waitForText(page, 'h1', /Kiln stack/);
      await start(page, 'Test');
      await waitForRun(page, /computing, (2[8-9]|[3-9]\d) of 120/, 120_000);
      await page.evaluate(() => {
        const done = (): string => /computing, (\d+)/.exec(document.querySelector('[data-testid=run-state]')?.textContent ?? '')?.[1] ?? '';
        document.addEventListener('click', () => (document.body.dataset['clicked'] = done()), { capture: true });
      });
      await press(page, 'Cancel');
      await waitForRun(page, /cancelled, \d+ of 120/);
      // What the page knew at the click may be a frame old, and one may be written in that moment: no more come, however long each takes.
      const clicked = Number(await page.$eval('body', (e) => e.dataset['clicked']));
      const run = (await shotOf(page, address)).runs[0]!;
      expect(clicked).toBeGreaterThanOrEqual(28);
      expect(run.framesDone - clicked).toBeLessThanOrEqual(3);
      await page.waitForFunction(() => /voxels/.test(document.querySelector('[data-testid=readout]')?.textContent ?? ''));
      const link = new URL(page.url());
      link.searchParams.set('channel', 'temperature');
      await page.goto(link.href);
      await page.waitForFunction(() => document.body.textContent?.includes('°C'));
      await press(page, 'Slice');
      await press(page, 'Slice across z');
      await byLabel(page, 'Where the slice is');
      await page.waitForFunction(() => document.body.textContent?.includes('m/s'));
      // A long playback: more frames in a row than a browser lets a page change its address for. All are shown, and the address follows at the end.
      const shown = async (): Promise<number> => Number.parseInt(await textOf(page, FRAME), 10);
      const before = await shown();
      await page.evaluate(async () => {
        document.querySelector<HTMLElement>('[data-testid=frame-strip]')?.focus();
        for (let n = 0; n < 260; n++) {
          document.activeElement?.dispatchEvent(new KeyboardEvent('keydown', { key: n < 250 ? (n % 2 ? '.' : ',') : ',', bubbles: true }));
          await new Promise((r) => setTimeout(r));
        }
      });
      await expect.poll(() => new URL(page.url()).searchParams.get('frame')).toBe(String(await shown()));
      expect(await shown()).toBe(before - 10);
    });
  });
});

describe('the shot', () => {
  it('its frames and budgets can be changed, and a range that is none is refused; a limit box can be set from the derived one', async () => {
    await withPage(async (page, address) => {
      await addShot(page, address, DEMO);
      await waitForText(page, 'h1', /Kiln stack/);
      await press(page, 'Variant Coarse');
      await press(page, 'Frames and budgets of the shot…');
      await typeNumber(page, 'Last frame', '0');
      await press(page, 'Save');
      await waitForText(page, '[role=dialog] [role=alert]', /last frame must not come before the first/);
      await typeNumber(page, 'Last frame', '48');
      await typeNumber(page, 'Time budget, h', '30 min');
      await press(page, 'Save');
      await page.waitForFunction(() => document.querySelector('header')?.textContent?.includes('of 30 min'));
      await expect.poll(async () => (await shotOf(page, address)).fields).toMatchObject({ lastFrame: 48, budgets: { time: 1800 } });
      await page.goto(`${page.url().split('?')[0]!}?group=bounds`);
      await press(page, 'Limit box: around sources and solids');
      await page.waitForFunction(() => document.body.textContent?.includes('The limit box is derived'));
      await press(page, 'Limit box: set');
      await typeNumber(page, 'Highest corner x, m', '12');
      await waitForText(page, 'header', /draft/);
      await page.waitForFunction(() => document.querySelector<HTMLInputElement>('[aria-label="Highest corner x, m"]')?.value === '12 m');
    });
  });
});

describe('wrong input', () => {
  it('a wrong shot file names every place; nothing is added', async () => {
    await withPage(async (page, address) => {
      const before = (await (await fetch(`${address}/api/shots`)).json()) as unknown[];
      const file = JSON.parse(await readFile(DEMO, 'utf8')) as {
        framesPerSecond: unknown;
        variants: { settings: { passes: { settings: { detail: unknown } }[] } }[];
      };
      file.framesPerSecond = -3;
      file.variants[1]!.settings.passes[0]!.settings.detail = { voxelSize: 'fine' };
      const path = join(inject('data'), 'wrong.json');
      await writeFile(path, JSON.stringify(file));
      await addShot(page, address, path);
      await waitForText(page, '[role=alert]', /framesPerSecond: found -3/);
      await waitForText(page, '[role=alert]', /variants\[1\]\.settings\.passes\[0\]\.settings\.detail\.voxelSize: found "fine"/);
      expect(await (await fetch(`${address}/api/shots`)).json()).toHaveLength(before.length);
    });
  });

  it('a number that is not valid is said under its field and changes nothing', async () => {
    await withPage(async (page, address) => {
      await addShot(page, address, DEMO);
      await waitForText(page, 'h1', /Kiln stack/);
      await typeNumber(page, 'Voxel size, m', '3 kg');
      await page.waitForFunction(() => document.body.textContent?.includes('"kg" is not a unit here'));
      await typeNumber(page, 'Voxel size, m', '0');
      await page.waitForFunction(() => document.body.textContent?.includes('at least'));
      await page.keyboard.press('Escape');
      expect(await textOf(page, 'header')).not.toContain('draft');
    });
  });

  it('an edit in another window is not overwritten: the newer one comes, and it is said', async () => {
    await withPage(async (page, address) => {
      await addShot(page, address, DEMO);
      await waitForText(page, 'h1', /Kiln stack/);
      const shot = await shotOf(page, address);
      const v = shot.variants[0]!;
      await fetch(`${address}/api/variants/${v.id}/draft`, {
        method: 'PUT',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ settings: fileSettings(v.settings, { detail: { voxelSize: 0.5 } }), revision: 0 }),
      });
      await page.waitForFunction(() => document.body.textContent?.includes('newer one'));
      await waitForText(page, 'header', /draft, 1 edit/);
    });
  });

  it('an address of nothing says what to do', async () => {
    await withPage(async (page, address) => {
      await page.goto(`${address}/bench/no-such-shot`);
      await page.waitForFunction(() => document.body.textContent?.includes('There is no such shot'));
    });
  });
});
