import { describe, expect, it } from 'vitest';
import { gasSolveOf } from '../src/core/shot/index';
import { press, runShort, shotOf, start, typeNumber, waitForText, withPage } from './page';

describe('edits around a Test', () => {
  it('made while it starts are a draft of the variant that it froze; the way back goes through it; nothing is said to be edited elsewhere', async () => {
    await withPage(async (page, address) => {
      const shot = await runShort(address, ['test']);
      await page.goto(`${address}/bench/${shot.slug}?group=detail`);
      await typeNumber(page, 'Voxel size, m', '0.25 m');
      // The server takes its time to start.
      await page.setRequestInterception(true);
      let begin: () => void = () => undefined;
      const asked = new Promise<void>((resolve) => {
        page.on('request', (request) => {
          if (request.method() !== 'POST' || !request.url().endsWith('/api/runs')) {
            void request.continue();
            return;
          }
          begin = () => void request.continue();
          resolve();
        });
      });
      await start(page, 'Test');
      await asked;
      await typeNumber(page, 'Voxel size, m', '0.3 m');
      await new Promise((resolve) => setTimeout(resolve, 500));
      begin();
      await page.waitForFunction(() => /run=/.test(location.search) && /variant=/.test(location.search));
      const sizes = async (): Promise<[string, number, number | null][]> =>
        (await shotOf(page, address)).variants.map((v) => [
          v.name,
          gasSolveOf(v.settings).detail.voxelSize,
          v.draft && gasSolveOf(v.draft.settings).detail.voxelSize,
        ]);
      await expect.poll(sizes, { timeout: 20_000 }).toEqual([
        [shot.variants[0]!.name, expect.any(Number), null],
        ['Voxel size 0.25 m', 0.25, 0.3],
      ]);
      expect(await page.$$eval('body', ([b]) => b!.innerText)).not.toMatch(/another window|changed elsewhere/);
      // Twice back: before the Test.
      for (let n = 0; n < 2; n++) await press(page, 'Undo');
      const first = gasSolveOf(shot.variants[0]!.settings).detail.voxelSize;
      await expect.poll(async () => (await sizes())[1]?.[2], { timeout: 20_000 }).toBe(first);
      await waitForText(page, 'h1', new RegExp(shot.fields.name));
    });
  });
});
