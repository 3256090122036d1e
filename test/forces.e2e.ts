import type { Page } from 'puppeteer-core';
import { describe, expect, it } from 'vitest';
import { press, pressText, runShort, sheetOf, shotOf, start, typeNumber, waitForText, withPage } from './page';

const forcesOf = async (page: Page, address: string) => sheetOf(await shotOf(page, address)).forces.fields;

async function addForce(page: Page, kind: RegExp): Promise<void> {
  await page.waitForFunction(() => {
    const button = [...document.querySelectorAll('button')].find((b) => b.textContent === 'Add a force');
    button?.scrollIntoView({ block: 'center' });
    return button !== undefined;
  });
  await pressText(page, /^Add a force$/);
  await pressText(page, kind);
}

describe('forces', () => {
  it('are added, placed, aimed and drawn as arrows, and a run feels them', async () => {
    await withPage(async (page, address) => {
      const shot = await runShort(address, []);
      await page.goto(`${address}/bench/${shot.slug}?group=sources`);
      // 200 K above ambient and density 1: which way it will go stands with the source.
      await waitForText(page, '[aria-label=Push]', /push it up with 3\.5 m\/s²/);
      await typeNumber(page, 'Heat, K', '-50 K');
      await waitForText(page, '[aria-label=Push]', /push it down with 1\.5 m\/s²/);
      await page.goto(`${address}/bench/${shot.slug}?group=forces`);
      await addForce(page, /^Draught$/);
      await press(page, 'Region: set');
      for (const [axis, to] of Object.entries({ x: '1.6 m', y: '1.6 m', z: '1.6 m' })) await typeNumber(page, `Centre ${axis}, m`, to);
      await typeNumber(page, 'Velocity x, m/s', '0 m/s');
      await typeNumber(page, 'Velocity z, m/s', '3 m/s');
      await expect
        .poll(() => forcesOf(page, address), { timeout: 8000 })
        .toMatchObject([{ kind: 'draught', velocity: [0, 0, 3], shape: { kind: 'ball', centre: [1.6, 1.6, 1.6] }, soft: 0.5 }]);
      await addForce(page, /^Attraction$/);
      await expect
        .poll(async () => (await forcesOf(page, address)).map((f) => f.name), { timeout: 8000 })
        .toEqual(['Draught', 'Attraction']);
      await press(page, 'Slice');
      await pressText(page, /^Slice across x$/);
      await press(page, 'Channel of the slice');
      await pressText(page, /^Forces as arrows$/);
      await waitForText(page, 'body', /the longest arrow is [\d.]+ m\/s²/);
      // Taken out again, and back.
      await press(page, 'Remove Attraction');
      await expect.poll(async () => (await forcesOf(page, address)).length, { timeout: 8000 }).toBe(1);
      await start(page, 'Test');
      await expect.poll(async () => (await shotOf(page, address)).runs.map((r) => r.state), { timeout: 60_000 }).toEqual(['done']);
      const frames = (await (await fetch(`${address}/api/runs/${(await shotOf(page, address)).runs[0]!.id}`)).json()) as {
        frames: { report: { energy: { forces: number } } }[];
      };
      expect(frames.frames[5]!.report.energy.forces).toBeGreaterThan(0);
    });
  });
});
