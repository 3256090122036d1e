import { resolve } from 'node:path';
import { describe, expect, it } from 'vitest';
import { addShot, atRest, byLabel, press, pressText, shotOf, textOf, typeNumber, waitForText, withPage } from './page';

const DEMO = resolve('demo/kiln-stack.json');

describe('making a shot', () => {
  it('blank, with a source and a solid from the board and the palette: named, hidden, placed, removed, undone', async () => {
    await withPage(async (page, address) => {
      await page.goto(`${address}/shots`);
      await pressText(page, /^New shot$/);
      await (await byLabel(page, 'Name')).type('Slip test');
      await press(page, 'Create');
      await waitForText(page, 'h1', /Slip test/);
      // Nothing to see yet, and the findings say why.
      await waitForText(page, 'header', /▲ 1/);
      await page.keyboard.down('Control');
      await page.keyboard.press('k');
      await page.keyboard.up('Control');
      await page.keyboard.type('Add a source');
      await page.keyboard.press('Enter');
      await waitForText(page, '[role=tabpanel]', /Source 1/);
      const name = await byLabel(page, 'Name');
      await name.click({ count: 3 });
      await page.keyboard.type('Gate');
      await page.keyboard.press('Enter');
      await waitForText(page, '[role=tabpanel]', /Gate/);
      // By numbers, with arithmetic and units.
      await typeNumber(page, 'Centre y, m', '50cm + 1');
      await page.waitForFunction(() => document.querySelector<HTMLInputElement>('[aria-label="Centre y, m"]')?.value === '1.5 m');
      await press(page, 'Hide Gate');
      await waitForText(page, '[role=tabpanel]', /hidden/);
      await press(page, 'Undo');
      await page.waitForFunction(() => !document.querySelector('[role=tabpanel]')?.textContent?.includes('hidden'));
      await press(page, 'Remove Gate');
      await waitForText(page, '[role=tabpanel]', /No source yet/);
      await press(page, 'Undo');
      await waitForText(page, '[role=tabpanel]', /Gate/);
      // What is typed is kept: another window has it.
      await page.waitForFunction(() => !document.body.textContent?.includes('Not saved'));
      await page.reload();
      await waitForText(page, '[role=tabpanel]', /Gate/);
    });
  });

  it('handles in the viewport move a source and the limit box; one undo each', async () => {
    await withPage(async (page, address) => {
      await addShot(page, address, DEMO);
      await waitForText(page, 'h1', /Kiln stack/);
      await page.goto(`${page.url().split('?')[0]!}?group=bounds`);
      const top = '[aria-label="Highest corner y, m"]';
      await page.waitForSelector(top);
      const before = await page.$eval(top, (e) => (e as HTMLInputElement).value);
      // The handle of the ceiling stands in the middle of the box's upper side: found by dragging down from where it is drawn.
      const canvas = (await (await page.waitForSelector('[data-testid=viewport]'))!.boundingBox())!;
      await atRest(page);
      await page.mouse.move(canvas.x + canvas.width / 2, canvas.y + 0.1234 * canvas.height);
      await page.mouse.down();
      await page.mouse.move(canvas.x + canvas.width / 2, canvas.y + 0.195 * canvas.height, { steps: 6 });
      await page.mouse.up();
      await page.waitForFunction((s: string, v: string) => document.querySelector<HTMLInputElement>(s)?.value !== v, {}, top, before);
      await waitForText(page, 'header', /draft, 1 edit/);
      await press(page, 'Undo');
      await page.waitForFunction((s: string, v: string) => document.querySelector<HTMLInputElement>(s)?.value === v, {}, top, before);
      // Or from a thing in the yard.
      await press(page, 'Take the limit box from…');
      await pressText(page, /^Stack mouth$/);
      await page.waitForFunction((s: string) => Number.parseFloat(document.querySelector<HTMLInputElement>(s)?.value ?? '') < 8, {}, top);
      await press(page, 'Undo');
      await page.waitForFunction((s: string, v: string) => document.querySelector<HTMLInputElement>(s)?.value === v, {}, top, before);
    });
  });

  it('a camera is saved with its aspect, and the view goes out as a picture', async () => {
    await withPage(async (page, address) => {
      await addShot(page, address, DEMO);
      await waitForText(page, 'h1', /Kiln stack/);
      await pressText(page, /^Camera$/);
      await press(page, 'Save this view as a camera…');
      await press(page, 'Save');
      await page.waitForFunction(() => document.body.textContent?.includes('Camera 1'));
      await expect.poll(async () => (await shotOf(page, address)).fields.cameras.length, { timeout: 5000 }).toBe(1);
      await pressText(page, /^Camera 1$/);
      await press(page, 'Aspect 2.39 : 1');
      await expect.poll(async () => (await shotOf(page, address)).fields.cameras[0]?.aspect, { timeout: 5000 }).toBe(2.39);
      await page.evaluate(() => {
        const make = URL.createObjectURL.bind(URL);
        URL.createObjectURL = (blob: Blob) => {
          void blob.arrayBuffer().then((b) => (document.body.dataset['head'] = JSON.stringify([...new Uint8Array(b.slice(0, 24))])));
          return make(blob);
        };
        HTMLAnchorElement.prototype.click = function () {
          document.body.dataset['still'] = this.download;
        };
      });
      await pressText(page, /^Camera 1$/);
      await press(page, 'Still of the view as PNG');
      await page.waitForFunction(() => document.body.dataset['still'] !== undefined && document.body.dataset['head'] !== undefined);
      const name = await page.$eval('body', (e) => e.dataset['still']);
      const head = JSON.parse(await page.$eval('body', (e) => e.dataset['head']!)) as number[];
      expect(name).toMatch(/^kiln-stack.*\.png$/);
      expect(head.slice(1, 4)).toEqual([...new TextEncoder().encode('PNG')]);
      const [width, height] = [head.slice(16, 20), head.slice(20, 24)].map((b) => b.reduce((n, x) => n * 256 + x, 0)) as [number, number];
      expect(width / height).toBeCloseTo(2.39, 1);
    });
  });

  it('variants are duplicated, and deleted with undo; a set at 1:8 is brought to real size as one edit', async () => {
    await withPage(async (page, address) => {
      await addShot(page, address, DEMO);
      await waitForText(page, 'h1', /Kiln stack/);
      const names = async (): Promise<string[]> => (await shotOf(page, address)).variants.map((v) => v.name);
      const count = (await names()).length;
      await press(page, 'Variant Coarse');
      await press(page, 'Duplicate this variant');
      await expect.poll(async () => (await names()).length, { timeout: 5000 }).toBe(count + 1);
      await waitForText(page, 'header', /Coarse.+/);
      await page.goto(`${page.url().split('?')[0]!}?group=scale`);
      await typeNumber(page, 'Built at 1 : N', '8');
      await press(page, 'Bring to real size');
      await page.waitForFunction(() => document.querySelector<HTMLInputElement>('[aria-label="Metres per unit, m"]')?.value === '8 m');
      await press(page, 'Undo');
      await page.waitForFunction(() => document.querySelector<HTMLInputElement>('[aria-label="Metres per unit, m"]')?.value === '1 m');
      expect(await textOf(page, 'header')).not.toContain('draft');
    });
  });
});
