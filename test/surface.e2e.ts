import { spawnSync } from 'node:child_process';
import { readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from 'puppeteer-core';
import { describe, expect, inject, it } from 'vitest';
import type { SurfaceReport } from '../src/core/passes/index';
import type { PassDetailDto, ShotDto } from '../src/protocol/index';
import { addShot, atRest, byLabel, pictureOf, press, pressText, shotOf, start, textOf, waitForText, withPage } from './page';

/** A sheet of liquid two particles thick that falls into a pool, and a skin whose first filter eats it. */
function sheetAndPool(): string {
  const source = (name: string, centre: readonly number[], size: readonly number[]) => ({ name, shape: { kind: 'box', centre, size } });
  const filter = (kind: string, strength: number) => ({ kind, strength });
  const file = {
    ruddle: 5,
    name: 'Falling sheet',
    lastFrame: 6,
    variants: [
      {
        name: 'First',
        settings: {
          passes: [
            {
              id: 'solve',
              kind: 'liquid',
              name: 'Solve',
              settings: {
                detail: { voxelSize: 0.025 },
                bounds: { limit: { min: [0, 0, 0], max: [1, 1, 1] } },
                sources: [source('Pool', [0.5, 0.1, 0.5], [1, 0.2, 1]), source('Sheet', [0.5, 0.6, 0.5], [0.8, 0.05, 0.8])],
              },
            },
            {
              id: 'skin',
              kind: 'surface',
              name: 'Skin',
              settings: {
                stack: [filter('median', 0.3), filter('open', 1.5)],
                polygons: { thin: 4, keepVolume: false },
                files: { attributes: 'age' },
              },
            },
          ],
        },
      },
    ],
  };
  const path = join(inject('data'), 'falling-sheet.json');
  writeFileSync(path, JSON.stringify(file));
  return path;
}

/** The newest run of the skin, when it is done. */
async function skinRun(address: string, slug: string, after: number): Promise<PassDetailDto> {
  for (;;) {
    const shot = (await (await fetch(`${address}/api/shots/${slug}`)).json()) as ShotDto;
    const run = shot.passRuns.findLast((r) => r.passId === 'skin');
    if (run?.state === 'failed') throw new Error(run.error?.message);
    if (run?.state === 'done' && run.number > after) return (await (await fetch(`${address}/api/runs/${run.id}`)).json()) as PassDetailDto;
    await new Promise((r) => setTimeout(r, 150));
  }
}

const reportsOf = (run: PassDetailDto): SurfaceReport[] =>
  run.frames.map((f) => f.report as SurfaceReport).sort((a, b) => a.frame - b.frame);
const filters = (page: Page): Promise<string[]> =>
  page.$$eval('section[aria-label=Filters] li', (all) => all.map((e) => e.getAttribute('aria-label') ?? ''));

async function drag(page: Page, from: string, to: string): Promise<void> {
  const middle = async (label: string): Promise<{ x: number; y: number }> => {
    const element = await byLabel(page, label);
    await element.scrollIntoView();
    const box = (await element.boundingBox())!;
    return { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  };
  const [a, b] = [await middle(from), await middle(to)];
  await page.mouse.move(a.x, a.y);
  await page.mouse.down();
  for (let n = 1; n <= 10; n++) await page.mouse.move(a.x + ((b.x - a.x) * n) / 10, a.y + ((b.y - 6 - a.y) * n) / 10);
  await page.mouse.up();
}

describe('a surface', () => {
  it('is built by dragging, says which filter eats the thin parts, is mended by a press, baked, played, exported and read by another program', async () => {
    await withPage(async (page, address) => {
      await addShot(page, address, sheetAndPool());
      await waitForText(page, 'h1', /Falling sheet/);
      const slug = new URL(page.url()).pathname.split('/').pop()!;
      await page.goto(`${page.url().split('?')[0]!}?pass=skin`);

      // The stack: one more, dragged before the others, and taken out again; the keyboard moves too.
      await (await page.waitForSelector('section[aria-label=Filters]'))!.scrollIntoView();
      await pressText(page, /^Add a filter$/);
      await pressText(page, /^Mean curvature$/);
      await page.waitForFunction(() => document.querySelectorAll('section[aria-label=Filters] li').length === 3);
      expect(await filters(page)).toEqual(['Median 1', 'Open 2', 'Mean curvature 3']);
      await drag(
        page,
        'Mean curvature 3: drag, or Alt with an arrow key, to move it',
        'Median 1: drag, or Alt with an arrow key, to move it',
      );
      await page.waitForFunction(
        () => document.querySelector('section[aria-label=Filters] li')?.getAttribute('aria-label') === 'Mean curvature 1',
      );
      expect(await filters(page)).toEqual(['Mean curvature 1', 'Median 2', 'Open 3']);
      await (await byLabel(page, 'Mean curvature 1: drag, or Alt with an arrow key, to move it')).focus();
      await page.keyboard.down('Alt');
      await page.keyboard.press('ArrowDown');
      await page.keyboard.up('Alt');
      await page.waitForFunction(() => document.querySelector('section[aria-label=Filters] li')?.getAttribute('aria-label') === 'Median 1');

      // Its Test bakes the solve first.
      await start(page, 'Test');
      const eaten = await skinRun(address, slug, 0);
      const before = reportsOf(eaten);
      expect(before).toHaveLength(6);
      expect(before[0]!.thin.kept / before[0]!.thin.particles).toBeLessThan(0.5);
      expect(before[0]!.eaten?.filter).toBe(2);
      await waitForText(page, '[data-testid=pass-results]', /Open eats the thin parts/, 60_000);
      expect(await textOf(page, '[data-testid=pass-results]')).toMatch(/Tried without Open \(filter 3\), 9\d|100/);
      await atRest(page);
      const bare = await pictureOf(page);

      // A press mends it: the stack tried at once, then baked.
      await (await page.waitForSelector('[data-testid=pass-results] [role=note]'))!.scrollIntoView();
      await pressText(page, /^Spare what is thin$/);
      await start(page, 'Try');
      await waitForText(page, '[data-testid=pass-facts]', /triangles/, 60_000);
      await waitForText(page, '[data-testid=run-state]', /follows every change/);
      await pressText(page, /^End$/);
      await start(page, 'Test');
      const mended = await skinRun(address, slug, eaten.run.number);
      const after = reportsOf(mended);
      expect(after[0]!.thin.kept / after[0]!.thin.particles).toBeGreaterThan(0.8);
      await page.waitForFunction(
        () => !(document.querySelector('[data-testid=pass-results]')?.textContent ?? '').includes('eats the thin parts'),
        { timeout: 60_000 },
      );
      await page.keyboard.press('Home');
      await atRest(page);
      expect(await pictureOf(page)).not.toBe(bare);

      // Played: the frame goes on by itself, and each has its own skin.
      const drawn = (): Promise<number> => page.$eval('[data-testid=viewport]', (e) => Number((e as HTMLElement).dataset['drawn']));
      const first = await drawn();
      await press(page, 'Play (Space)');
      await page.waitForFunction(
        (n: number) => Number(document.querySelector<HTMLElement>('[data-testid=viewport]')?.dataset['drawn']) >= n + 5,
        { timeout: 30_000 },
        first,
      );
      expect(new Set(after.map((r) => r.triangles)).size).toBeGreaterThan(3);
      expect((await shotOf(page, address)).passRuns.filter((r) => r.passId === 'skin')).toHaveLength(2);

      // Exported under plain names, with what others are told of it; and read by another program.
      const out = join(inject('data'), 'skin-out');
      const done = spawnSync(process.execPath, ['node_modules/.bin/ruddle', 'export', mended.run.folder, '--out', out, '--name', 'slip'], {
        encoding: 'utf8',
      });
      expect(done.status, done.stderr).toBe(0);
      expect(readdirSync(out).sort()).toEqual([...[1, 2, 3, 4, 5, 6].map((n) => `slip.000${String(n)}.ply`), 'slip.json']);
      const index = JSON.parse(readFileSync(join(out, 'slip.json'), 'utf8')) as {
        up: string;
        vertices: string[];
        frames: { frame: number; seconds: number }[];
      };
      expect(index).toMatchObject({ up: 'y', mesh: 'ply', vertices: ['position', 'normal', 'velocity', 'age'] });
      expect(index.frames[5]).toEqual({ frame: 6, seconds: 5 / 24 });
      const info = spawnSync('assimp', ['info', join(out, 'slip.0003.ply')], { encoding: 'utf8' }).stdout;
      expect(info).toMatch(new RegExp(`Faces:\\s+${String(after[2]!.triangles)}\\b`));

      // The same figures on the command line, from the particles alone.
      const solve = (await shotOf(page, address)).runs[0]!;
      const stack = join(inject('data'), 'stack.json');
      const made = (await shotOf(page, address)).variants.find((v) => v.id === mended.run.variantId)!;
      writeFileSync(stack, JSON.stringify(made.settings.passes[1]!.settings));
      const line = spawnSync(
        process.execPath,
        ['node_modules/.bin/ruddle', 'surface', solve.folder, '--stack', stack, '--out', join(inject('data'), 'line'), '--json'],
        { encoding: 'utf8' },
      );
      expect(line.status, line.stderr).toBe(0);
      const frames = line.stdout
        .trim()
        .split('\n')
        .map((l) => JSON.parse(l) as { kind: string; frame: number; report: SurfaceReport })
        .filter((l) => l.kind === 'frame');
      expect(frames).toHaveLength(6);
      const third = frames.find((f) => f.frame === 3)!.report;
      expect(third).toMatchObject({ triangles: after[2]!.triangles, outside: after[2]!.outside, volume: after[2]!.volume });
    });
  });

  it('of numbered .ply from anywhere needs the spacing to be said, and refuses what is no particle', () => {
    const folder = join(inject('data'), 'anywhere');
    const out = join(inject('data'), 'anywhere-skin');
    const points = Array.from({ length: 512 }, (_v, n) => `${String(n % 8)} ${String((n >> 3) % 8)} ${String(n >> 6)}`);
    const ply = (lines: readonly string[]): string =>
      `ply\nformat ascii 1.0\nelement vertex ${String(lines.length)}\nproperty float x\nproperty float y\nproperty float z\nend_header\n${lines.join('\n')}\n`;
    spawnSync('mkdir', ['-p', folder]);
    for (const n of [1, 2, 3]) writeFileSync(join(folder, `grain.${String(n)}.ply`), ply(n === 2 ? [] : points));
    const ruddle = (...args: string[]) =>
      spawnSync(process.execPath, ['node_modules/.bin/ruddle', 'surface', ...args], { encoding: 'utf8' });
    const without = ruddle(folder, '--out', out);
    expect(without.status).toBe(3);
    expect(without.stderr).toMatch(/how far apart these particles lie is not known/);
    const made = ruddle(folder, '--out', out, '--spacing', '1', '--json');
    expect(made.status, made.stderr).toBe(0);
    const reports = made.stdout
      .trim()
      .split('\n')
      .map((l) => JSON.parse(l) as { kind: string; report: SurfaceReport })
      .filter((l) => l.kind === 'frame')
      .map((l) => l.report);
    expect(reports.map((r) => r.particles).sort((a, b) => a - b)).toEqual([0, 512, 512]);
    expect(reports.find((r) => r.particles > 0)!.volume.skin / 512).toBeCloseTo(1, 1);
    writeFileSync(join(folder, 'grain.3.ply'), ply(['nan 0 0']));
    const broken = ruddle(folder, '--out', `${out}-2`, '--spacing', '1');
    expect(broken.status).not.toBe(0);
    expect(broken.stderr).toMatch(/point 0 has no position/);
    expect(readdirSync(`${out}-2`).some((f) => f.endsWith('.part'))).toBe(false);
  });
});
