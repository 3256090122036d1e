import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { resolve } from 'node:path';
import type { Page } from 'puppeteer-core';
import { describe, expect, it } from 'vitest';
import type { ShotDto } from '../src/protocol/index';
import { waitForText, withPage } from './page';

interface AxeResult {
  readonly violations: readonly { id: string; nodes: readonly { html: string; failureSummary?: string }[] }[];
}

const source = await readFile(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

async function violations(page: Page): Promise<string[]> {
  await page.evaluate(source);
  const result = await page.evaluate(async () => await (window as unknown as { axe: { run: () => Promise<AxeResult> } }).axe.run());
  return result.violations.flatMap((v) => v.nodes.map((n) => `${v.id}: ${n.html} ${n.failureSummary ?? ''}`));
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
          await page.goto(`${address}/bench/${shot.slug}?group=${group}`);
          await waitForText(page, '[role=tabpanel] h2', /\?$/);
          expect(await violations(page), group).toEqual([]);
        }
      });
    });
  }
});
