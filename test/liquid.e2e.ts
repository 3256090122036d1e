import type { Page } from 'puppeteer-core';
import { describe, expect, it } from 'vitest';
import type { LiquidReport } from '../src/core/liquid/index';
import type { RunDetailDto } from '../src/protocol/index';
import {
  atRest,
  byLabel,
  pictureOf,
  press,
  pressText,
  runsDone,
  shotOf,
  smokeIn,
  start,
  typeNumber,
  waitForRun,
  waitForText,
  withPage,
} from './page';

const TAB = '[role=tabpanel]';

/** An item of the board, by the command palette. */
async function add(page: Page, what: string, name: string): Promise<void> {
  // The palette's key belongs to a field that is being typed into.
  await page.evaluate(() => {
    (document.activeElement as HTMLElement | null)?.blur();
  });
  await page.keyboard.down('Control');
  await page.keyboard.press('k');
  await page.keyboard.up('Control');
  await page.keyboard.type(what);
  await page.keyboard.press('Enter');
  await waitForText(page, TAB, /Source \d/);
  const field = await byLabel(page, 'Name');
  await field.click({ count: 3 });
  await page.keyboard.type(name);
  await page.keyboard.press('Enter');
  await waitForText(page, TAB, new RegExp(name));
}

async function triple(page: Page, label: string, values: readonly string[]): Promise<void> {
  for (const [n, axis] of ['x', 'y', 'z'].entries()) await typeNumber(page, `${label} ${axis}, m`, values[n]!);
}

describe('a liquid', () => {
  it('a tank with a falling body from an empty shot: sketched, more particles, predicted, tested, compared', async () => {
    await withPage(async (page, address) => {
      await page.goto(`${address}/shots`);
      await pressText(page, /^New shot$/);
      await (await byLabel(page, 'Name')).type('Settling tank');
      await press(page, 'Begin with');
      await pressText(page, /^Empty shot: liquid$/);
      await press(page, 'Create');
      await waitForText(page, 'h1', /Settling tank/);
      await press(page, 'Variant First');
      await press(page, 'Frames and budgets of the shot…');
      await typeNumber(page, 'Last frame', '30');
      await press(page, 'Save');
      await page.waitForFunction(() => !document.querySelector('[role=dialog]'));
      // Nothing comes in yet, and the findings say so.
      await waitForText(page, 'header', /▲ 1/);

      await add(page, 'Add a source', 'Pool');
      await press(page, 'Shape');
      await pressText(page, /^Box$/);
      await triple(page, 'Centre', ['0', '0.4', '0']);
      await triple(page, 'Size', ['2', '0.8', '1']);
      await add(page, 'Add a source', 'Clot');
      await triple(page, 'Centre', ['0', '1.5', '0']);
      await typeNumber(page, 'Radius, m', '0.3');
      const bench = page.url().split('?')[0]!;
      await page.waitForFunction(() => !document.body.textContent?.includes('Not saved'));
      await page.goto(`${bench}?group=bounds`);
      await press(page, 'Limit box: set');
      await triple(page, 'Lowest corner', ['-1', '0', '-0.5']);
      await triple(page, 'Highest corner', ['1', '2', '0.5']);
      await page.waitForFunction(() => !document.body.textContent?.includes('Not saved'));
      await page.goto(`${bench}?group=detail`);
      await typeNumber(page, 'Voxel size, m', '8cm');
      await waitForText(page, TAB, /Particles, most.*\d k/);

      // Sketched live in the browser: it falls, and is there as particles.
      await atRest(page);
      const yard = await pictureOf(page);
      await start(page, 'Sketch');
      await waitForRun(page, /follows every change$/, 120_000);
      await atRest(page);
      expect((await smokeIn(page, yard)).part).toBeGreaterThan(0.002);
      await waitForText(page, '[data-testid=readout]', /particles/);
      await press(page, 'First frame');
      await atRest(page);
      const early = await smokeIn(page, yard);
      await press(page, 'Last frame');
      await atRest(page);
      // The ball is a tenth of all that is seen: the middle of it falls by less than the ball does, and stands still where nothing moves.
      expect(Math.abs((await smokeIn(page, yard)).y - early.y)).toBeGreaterThan(0.007);

      // Twenty-seven in a voxel instead of eight: said before anything is computed.
      const particles = async (): Promise<number> => {
        const text = await page.$eval(TAB, (e) => e.textContent ?? '');
        // The last figure of its row: of the sheet, where a Sketch stands beside it too.
        return Number(/([\d.]+) k$/.exec(/Particles, most(.*?)Active voxels/.exec(text)?.[1] ?? '')?.[1]);
      };
      const few = await particles();
      await typeNumber(page, 'Particles along a voxel', '3');
      await expect.poll(particles, { timeout: 20_000 }).toBeGreaterThan(1.5 * few);
      await press(page, 'Undo');

      // A Test of each, with volume and particles in its figures; the second is predicted from the first.
      const slug = (await shotOf(page, address)).slug;
      await start(page, 'Test');
      await expect.poll(async () => (await shotOf(page, address)).runs.length, { timeout: 20_000 }).toBe(1);
      await runsDone(address, slug);
      await waitForRun(page, /^fresh$/, 60_000);
      // Its particles as one smooth surface cover what they cover as balls; their ways in a frame are less.
      const drawnAs = async (what: string): Promise<number> => {
        await press(page, 'Particles');
        await pressText(page, new RegExp(`^${what}$`));
        await page.keyboard.press('Escape');
        await page.waitForFunction(() => !document.querySelector('[role=dialog]'));
        await atRest(page);
        return (await smokeIn(page, yard)).part;
      };
      const balls = await drawnAs('Balls');
      const surface = await drawnAs('Surface');
      expect(surface / balls).toBeGreaterThan(0.8);
      expect(surface / balls).toBeLessThan(1.3);
      expect(await drawnAs('Velocity')).toBeGreaterThan(0.002);
      await drawnAs('Balls');

      // What is written beside the particles, and fewer of them inside.
      await page.goto(`${bench}?group=keep`);
      await press(page, 'Distance (.vdb)');
      await waitForText(page, 'main', /\.ply \+ \.vdb/);
      await page.waitForFunction(() => !document.body.textContent?.includes('Not saved'));
      await page.goto(`${bench}?group=detail`);
      await typeNumber(page, 'Voxel size, m', '7cm');
      await waitForText(page, 'header', /Final[\d.]+ (ms|s|min)/);
      await start(page, 'Test');
      await expect.poll(async () => (await shotOf(page, address)).runs.length, { timeout: 20_000 }).toBe(2);
      const shot = await runsDone(address, slug);
      await waitForRun(page, /^fresh$/, 60_000);
      const [first] = await Promise.all(
        shot.runs.map(async (r) => (await (await fetch(`${address}/api/runs/${r.id}`)).json()) as RunDetailDto),
      );
      expect(first!.frames).toHaveLength(30);
      // The clot falls 0.4 m onto the pool, and nothing is lost of either.
      const reports = first!.frames.map((f) => f.report as LiquidReport);
      const hit = Math.max(...reports.slice(0, 9).map((r) => r.fastest));
      expect(hit).toBeGreaterThan(2);
      expect(hit).toBeLessThan(4);
      expect(reports[29]!.energy.potential).toBeLessThan(0.95 * reports[0]!.energy.potential);
      expect(Math.abs(reports[29]!.volume.end / (1.6 + (4 / 3) * Math.PI * 0.3 ** 3) - 1)).toBeLessThan(0.06);
      expect(shot.runs[1]!.prediction?.time?.likely).toBeGreaterThan(0);

      await page.keyboard.press('c');
      await waitForText(page, '[data-testid=compare-table]', /Voxel size 0\.08 m → 0\.07 m/);
      await waitForText(page, '[data-testid=compare-table]', /[Pp]articles/);
      await page.waitForSelector('[data-testid=compare-chart] .js-plotly-plot .scatterlayer path');
    });
  });
});
