import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { resolve } from 'node:path';
import type { Page } from 'puppeteer-core';
import { describe, expect, it } from 'vitest';
import type { ShotDto } from '../src/protocol/index';
import { press, runShort, still, waitForText, withPage } from './page';

interface AxeResult {
  readonly violations: readonly { id: string; nodes: readonly { html: string; failureSummary?: string }[] }[];
}

const source = await readFile(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

async function violations(page: Page): Promise<string[]> {
  await page.evaluate(source);
  const result = await page.evaluate(async () => await (window as unknown as { axe: { run: () => Promise<AxeResult> } }).axe.run());
  return result.violations.flatMap((v) => v.nodes.map((n) => `${v.id}: ${n.html} ${n.failureSummary ?? ''}`));
}

/** To another address within the page, as a link of its own goes there: loading it each time would take most of this test. */
async function goTo(page: Page, path: string): Promise<void> {
  await page.evaluate((to: string) => {
    window.history.pushState(null, '', to);
    window.dispatchEvent(new PopStateEvent('popstate'));
  }, path);
  await still(page);
}

describe('axe-core finds nothing', () => {
  for (const theme of ['dark', 'light'] as const) {
    it(`in the ${theme} theme, on Shots and in every group of the Bench`, async () => {
      await withPage(async (page, address) => {
        const response = await fetch(`${address}/api/shots`, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: await readFile(resolve('demo/kiln-stack.json'), 'utf8'),
        });
        const shot = (await response.json()) as ShotDto;
        await page.goto(`${address}/shots`);
        await page.evaluate((t: string) => {
          localStorage.setItem('ruddle.theme', t);
        }, theme);
        await page.goto(`${address}/shots`);
        await waitForText(page, '[role=table]', /Kiln stack/);
        expect(await page.$eval('html', (e) => e.dataset['theme'])).toBe(theme);
        expect(await violations(page)).toEqual([]);
        for (const group of ['scale', 'detail', 'stepping', 'bounds', 'sources', 'solids', 'forces', 'matter', 'keep']) {
          await goTo(page, `/bench/${shot.slug}?group=${group}`);
          await waitForText(page, '[role=tabpanel] h2', /\?$/);
          expect(await violations(page), group).toEqual([]);
        }
        await page.keyboard.down('Shift');
        await page.keyboard.press('N');
        await page.keyboard.up('Shift');
        await page.waitForSelector('[data-testid=findings]');
        expect(await violations(page), 'findings').toEqual([]);
        await page.keyboard.press('?');
        await page.waitForSelector('[role=listbox]');
        await still(page);
        expect(await violations(page), 'keys').toEqual([]);
        await page.keyboard.press('Escape');
        await page.waitForFunction(() => !document.querySelector('[role=listbox]'));
        await press(page, 'Prediction record');
        await waitForText(page, '[role=dialog]', /median error/);
        await still(page);
        expect(await violations(page), 'record').toEqual([]);
      });
    });

    it(`in the ${theme} theme, on the sheets of every kind of pass, of a liquid and of a skin`, async () => {
      await withPage(async (page, address) => {
        await page.goto(`${address}/shots`);
        await page.evaluate((t: string) => {
          localStorage.setItem('ruddle.theme', t);
        }, theme);
        for (const [file, groups] of [
          ['kiln-stack', []],
          ['slip-sluice', ['scale', 'detail', 'stepping', 'bounds', 'sources', 'solids', 'forces', 'matter', 'keep']],
        ] as const) {
          const response = await fetch(`${address}/api/shots`, {
            method: 'POST',
            headers: { 'content-type': 'application/json' },
            body: await readFile(resolve(`demo/${file}.json`), 'utf8'),
          });
          const shot = (await response.json()) as ShotDto;
          for (const group of groups) {
            await goTo(page, `/bench/${shot.slug}?group=${group}`);
            await waitForText(page, '[role=tabpanel] h2', /\?$/);
            expect(await violations(page), `${file}, ${group}`).toEqual([]);
          }
          for (const variant of shot.variants)
            for (const { id, name } of variant.settings.passes.slice(1)) {
              await goTo(page, `/bench/${shot.slug}?variant=${variant.id}&pass=${id}`);
              await waitForText(page, 'body', new RegExp(`${name} (is not computed yet|cannot be computed)`));
              expect(await violations(page), `${file}, ${id}`).toEqual([]);
            }
        }
      });
    });

    it(`in the ${theme} theme, while comparing and trying three values`, async () => {
      await withPage(async (page, address) => {
        const shot = await runShort(address, ['test', 'test']);
        await page.goto(`${address}/shots`);
        await page.evaluate((t: string) => {
          localStorage.setItem('ruddle.theme', t);
        }, theme);
        const [one, two] = shot.runs;
        await page.goto(`${address}/bench/${shot.slug}?variant=${two!.variantId}&run=${two!.id}&with=${one!.id}&group=matter`);
        await page.waitForFunction(() => Number(document.querySelector('[data-testid=compare-chart]')?.getAttribute('data-points')) > 0);
        for (const mode of ['Side by side', 'Wipe', 'Difference']) {
          await press(page, mode);
          expect(await violations(page), mode).toEqual([]);
        }
        await page.keyboard.press('c');
        await press(page, 'Sinking by density: try three values');
        await waitForText(page, '[data-testid=tried-frame]', /frame \d/);
        // The tooltip goes with the pointer.
        await page.mouse.move(640, 400);
        await page.waitForFunction(() => !document.querySelector('[role=tooltip]'));
        expect(await violations(page), 'three values').toEqual([]);
      });
    });
  }
});
