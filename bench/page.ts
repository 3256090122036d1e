import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import type { Browser, Page } from 'puppeteer-core';
import { launchBrowser } from '../scripts/lib/browser.mjs';
import type { ShotDto } from '../src/protocol/index';
import { startServer } from '../test/server-process';
import { type Row, type Section, middle, row } from './section';

const rest = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

async function call<T>(address: string, method: string, path: string, body?: unknown): Promise<T> {
  const headers = body === undefined ? {} : { 'content-type': 'application/json' };
  const response = await fetch(`${address}/api${path}`, { method, headers, ...(body === undefined ? {} : { body: JSON.stringify(body) }) });
  return (await response.json()) as T;
}

/** A plume that fills much of a 128-voxel box, computed to the end. */
async function wideShot(address: string, frames: number): Promise<ShotDto> {
  const shot = await call<ShotDto>(address, 'POST', '/shots', {
    ruddle: 1,
    name: 'Scrub',
    lastFrame: frames,
    variants: [
      {
        name: 'One',
        settings: {
          detail: { voxelSize: 0.05 },
          bounds: { mode: 'fixed', limit: { min: [0, 0, 0], max: [6.4, 6.4, 6.4] } },
          sources: [
            {
              shape: { kind: 'ball', centre: [3.2, 1.6, 3.2], radius: 1.2 },
              density: 1,
              heat: 300,
              noise: { amount: 0.9, size: 0.6, change: 0.4, octaves: 3, seed: 2 },
            },
          ],
          forces: { wind: [1, 0, 0] },
        },
      },
    ],
  });
  await call(address, 'POST', '/runs', { variantId: shot.variants[0]?.id, rung: 'final', overBudget: true });
  for (;;) {
    const now = await call<ShotDto>(address, 'GET', `/shots/${shot.slug}`);
    if (now.runs[0]?.state === 'done') return now;
    await rest(300);
  }
}

/** Script that a view loads, gzipped. */
async function scriptBytes(page: Page, address: string): Promise<number> {
  const found = new Set<string>();
  page.on('response', (r) => {
    if (/\.m?js($|\?)/.test(r.url())) found.add(r.url());
  });
  // The stream of events never ends: what a view loads is there a moment after its heading.
  await page.goto(`${address}/shots`);
  await page.waitForSelector('h1');
  await rest(1500);
  let bytes = 0;
  for (const url of found) bytes += gzipSync(Buffer.from(await (await fetch(url)).arrayBuffer())).length;
  return bytes;
}

/** Milliseconds from asking for the next frame to its quick picture. */
async function scrub(page: Page, frames: number): Promise<number[]> {
  return await page.evaluate(async (count: number) => {
    const times: number[] = [];
    const canvas = document.querySelector<HTMLElement>('[data-testid=viewport]');
    const number = document.querySelector('[data-testid=frame-number]');
    if (!canvas || !number) return times;
    for (let f = 0; f < count; f++) {
      const drawn = canvas.dataset['drawn'];
      const shown = number.textContent;
      const began = performance.now();
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key: '.', bubbles: true }));
      while (canvas.dataset['drawn'] === drawn || number.textContent === shown) {
        if (performance.now() - began > 3000) return times;
        await new Promise((resolve) => requestAnimationFrame(resolve));
      }
      times.push(performance.now() - began);
      // A hand that scrubs goes on; the fine picture is not waited for.
      await new Promise((resolve) => setTimeout(resolve, 20));
    }
    return times;
  }, frames);
}

/** Steps a second of the Sketch while it has 12,000 to 45,000 active voxels, brought to 30,000, beside a viewport of 320x240. */
async function sketchRate(browser: Browser, address: string): Promise<{ rate: number; voxels: number }> {
  const { readFile } = await import('node:fs/promises');
  const shot = await call<ShotDto>(address, 'POST', '/shots', JSON.parse(await readFile('demo/kiln-stack.json', 'utf8')));
  const finer = shot.variants.find((v) => v.name === 'Finer');
  const page = await browser.newPage();
  await page.setViewport({ width: 720, height: 424 });
  await page.evaluateOnNewDocument(() => {
    const seen: { at: number; voxels: number; steps: number }[] = [];
    Object.assign(window, { seen });
    const Own = Worker;
    Object.assign(window, {
      Worker: class extends Own {
        constructor(url: string | URL, options?: WorkerOptions) {
          super(url, options);
          this.addEventListener(
            'message',
            (e: MessageEvent<{ kind?: string; report?: { activeVoxels: number; substepsUsed: number } }>) => {
              const { kind, report } = e.data;
              if (kind === 'frame' && report) seen.push({ at: performance.now(), voxels: report.activeVoxels, steps: report.substepsUsed });
            },
          );
        }
      },
    });
  });
  await page.goto(`${address}/bench/${shot.slug}?variant=${finer?.id ?? ''}`);
  await (await page.waitForSelector('button[data-rung=Sketch]'))?.click();
  await page.waitForFunction(() => document.querySelector('[data-testid=run-state]')?.textContent?.includes('follows every change'), {
    timeout: 120_000,
  });
  const seen = await page.evaluate(() => (window as unknown as { seen: { at: number; voxels: number; steps: number }[] }).seen);
  await page.close();
  const near = seen
    .map((s, n) => ({ ...s, took: n === 0 ? 0 : s.at - (seen[n - 1]?.at ?? 0) }))
    .filter((s) => s.took > 0 && s.voxels > 12_000 && s.voxels < 45_000);
  const voxels = near.reduce((n, s) => n + s.voxels, 0) / Math.max(1, near.length);
  // Time goes with the voxels: brought to 30,000.
  const perStep = middle(near.map((s) => (s.took / Math.max(1, s.steps)) * (30_000 / s.voxels)));
  return { rate: 1000 / perStep, voxels };
}

export const page: Section = {
  id: 'page',
  title: 'In the page (headless Chromium, drawn in software)',
  async run({ quick }) {
    const data = mkdtempSync(join(tmpdir(), 'ruddle-page-'));
    const server = await startServer({ RUDDLE_DATA: data, RUDDLE_DEMO: '0', RUDDLE_CALIBRATE: '0', RUDDLE_PORT: '0' });
    const browser = await launchBrowser();
    const rows: Row[] = [];
    try {
      const frames = quick ? 6 : 24;
      const shot = await wideShot(server.address, frames);
      const first = await browser.newPage();
      rows.push(row('script of the Shots view, gzipped', (await scriptBytes(first, server.address)) / 1000, 'kB', { most: 300 }));
      await first.close();
      const interactive: number[] = [];
      let bench = await browser.newPage();
      for (let round = 0; round < 3; round++) {
        await bench.close();
        bench = await browser.newPage();
        const began = performance.now();
        await bench.goto(`${server.address}/bench/${shot.slug}`, { waitUntil: 'domcontentloaded' });
        await bench.waitForFunction(
          () =>
            document.querySelector('button[data-rung=Final]:not([disabled])') !== null &&
            Number(document.querySelector('[data-testid=viewport]')?.getAttribute('data-drawn')) > 0,
          { polling: 30 },
        );
        interactive.push((performance.now() - began) / 1000);
      }
      rows.push(row('Bench, until it can be used', middle(interactive), 's', { most: 3 }));
      await (await bench.waitForSelector('aria/First frame'))?.click();
      await rest(4000);
      const times = await scrub(bench, frames - 2);
      rows.push(row('scrubbing a 128³ cache, a frame', middle(times), 'ms', { most: 100 }, `${String(times.length)} frames`));
      await bench.close();
      const { rate, voxels } = await sketchRate(browser, server.address);
      rows.push(
        row(
          'Sketch at 30,000 active voxels',
          rate,
          'steps/s',
          { least: 15 },
          `measured at ${(voxels / 1000).toFixed(0)} k, viewport 320x240`,
        ),
      );
      return rows;
    } finally {
      await browser.close();
      await server.stop();
      rmSync(data, { recursive: true, force: true });
    }
  },
};
