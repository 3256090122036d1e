import puppeteer, { type Browser, type ElementHandle, type Page, type ScreenshotClip } from 'puppeteer-core';
import { expect, inject } from 'vitest';
import { type Settings, type GasSolve, gasSolveOf } from '../src/core/shot/index';
import type { ShotDto, VariantDto } from '../src/protocol/index';

/** A page in a browser context of its own; fails the test when the page's console shows an error. */
export async function withPage(body: (page: Page, address: string) => Promise<void>): Promise<void> {
  const browser: Browser = await puppeteer.connect({ browserWSEndpoint: inject('browser'), defaultViewport: { width: 1280, height: 800 } });
  const context = await browser.createBrowserContext();
  const problems: string[] = [];
  const page = await context.newPage();
  try {
    page.setDefaultTimeout(Number(process.env['RUDDLE_E2E_TIMEOUT'] ?? 30_000));
    page.on('pageerror', (error) => problems.push(String(error)));
    page.on('console', (message) => {
      // Refused requests are part of some tests; the page shows them itself.
      if (message.type() === 'error' && !message.text().includes('Failed to load resource')) problems.push(message.text());
    });
    await body(page, inject('address'));
    expect(problems).toEqual([]);
  } catch (error) {
    // What the page looked like when it failed, for whoever asks: RUDDLE_E2E_PICTURES=folder.
    const folder = process.env['RUDDLE_E2E_PICTURES'];
    if (folder)
      await page.screenshot({ path: `${folder}/${expect.getState().currentTestName?.replace(/\W+/g, '-').slice(-60) ?? 'failed'}.png` });
    throw error;
  } finally {
    await context.close();
    await browser.disconnect();
  }
}

/** The element with an accessible name, waited for. */
export async function byLabel(page: Page, label: string): Promise<ElementHandle> {
  const found = await page.waitForSelector(`aria/${label}`);
  if (!found) throw new Error(`nothing is called ${label}`);
  return found;
}

/** Clicks once the element has stopped moving: menus and dialogs open with a movement, and a click meant for them would miss. */
async function clickWhenStill(find: () => Promise<ElementHandle>): Promise<void> {
  for (;;) {
    const element = await find();
    // Watched from inside of the page: each question from here waits for whatever it is drawing.
    const ready = await element.evaluate(async (e) => {
      let last = '';
      const began = Date.now();
      for (;;) {
        if (!e.isConnected) return false;
        if (Date.now() - began > 25_000) {
          const box = e.getBoundingClientRect();
          const over = document.elementFromPoint(box.x + box.width / 2, box.y + box.height / 2);
          throw new Error(`cannot be pressed; over it lies: ${over?.outerHTML.slice(0, 200) ?? 'nothing, it is off the page'}`);
        }
        e.scrollIntoView({ block: 'nearest' });
        const box = e.getBoundingClientRect();
        const place = [box.x, box.y, box.width, box.height].join();
        // A menu that is still closing lies over everything.
        const top = document.elementFromPoint(box.x + box.width / 2, box.y + box.height / 2);
        if (place === last && box.width > 0 && top !== null && (e.contains(top) || top.contains(e))) return true;
        last = place;
        await new Promise((r) => setTimeout(r, 80));
      }
    });
    if (!ready) continue;
    await element.click();
    return;
  }
}

/** Clicks what has an accessible name. */
export const press = (page: Page, label: string): Promise<void> => clickWhenStill(() => byLabel(page, label));

/** Presses one of the three buttons that compute. */
export async function start(page: Page, rung: 'Sketch' | 'Try' | 'Test' | 'Final'): Promise<void> {
  const button = await page.waitForSelector(`button[data-rung=${rung}]:not([disabled])`);
  await button?.click();
}

/** Clicks the nth button, link or menu item whose own text matches and over which nothing lies (a menu that closes, a sheet's edge). */
export async function pressText(page: Page, pattern: RegExp, nth = 0): Promise<void> {
  const find = (source: string, n: number): Element | null => {
    const pressable = (e: Element): boolean => {
      const box = e.getBoundingClientRect();
      return e.contains(document.elementFromPoint(box.x + box.width / 2, box.y + box.height / 2));
    };
    return (
      [...document.querySelectorAll('button, a, [role=menuitem], [role=option]')].filter(
        (e) => new RegExp(source).test((e.textContent ?? '').trim()) && pressable(e),
      )[n] ?? null
    );
  };
  await clickWhenStill(async () => (await page.waitForFunction(find, { polling: 100 }, pattern.source, nth)) as ElementHandle);
}

/** Adds a shot file through the interface; the Bench opens with it. */
export async function addShot(page: Page, address: string, file: string): Promise<void> {
  await page.goto(`${address}/shots`);
  const input = await page.waitForSelector('input[type=file]');
  await (input as ElementHandle<HTMLInputElement>).uploadFile(file);
}

/** The shot of the Bench, as the server has it. */
/** The solve on the sheet of a shot's first variant. */
export const sheetOf = ({ variants }: { readonly variants: readonly VariantDto[] }): GasSolve =>
  gasSolveOf(variants[0]!.draft?.settings ?? variants[0]!.settings);

export const shotOf = async (page: Page, address: string): Promise<ShotDto> => {
  const slug = new URL(page.url()).pathname.split('/').pop() ?? '';
  return (await (await fetch(`${address}/api/shots/${slug}`)).json()) as ShotDto;
};

/** A small shot with finished runs, made through the server: a few seconds. */
export async function runShort(address: string, rungs: readonly ('test' | 'final')[]): Promise<ShotDto> {
  const call = async <T>(method: string, path: string, body?: unknown): Promise<T> =>
    (await (
      await fetch(`${address}/api${path}`, {
        method,
        ...(body === undefined ? {} : { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }),
      })
    ).json()) as T;
  const shot = await call<ShotDto>('POST', '/shots', {
    ruddle: 1,
    name: 'Small puff',
    lastFrame: 12,
    variants: [
      {
        name: 'One',
        settings: {
          detail: { voxelSize: 0.08 },
          bounds: { limit: { min: [0, 0, 0], max: [3.2, 3.2, 3.2] } },
          sources: [{ shape: { kind: 'ball', centre: [1.6, 0.8, 1.6], radius: 0.5 }, density: 1, heat: 200 }],
        },
      },
    ],
  });
  for (const rung of rungs) await call('POST', '/runs', { variantId: shot.variants[0]!.id, rung, overBudget: true });
  for (;;) {
    const now = await call<ShotDto>('GET', `/shots/${shot.slug}`);
    const ended = now.runs.filter((r) => r.state !== 'queued' && r.state !== 'running');
    const bad = ended.find((r) => r.state !== 'done');
    if (bad) throw new Error(`run ${String(bad.number)} ${bad.state}: ${bad.error?.message ?? ''}`);
    if (now.runs.length === rungs.length && ended.length === rungs.length) return now;
    await new Promise((r) => setTimeout(r, 150));
  }
}

export const textOf = async (page: Page, selector: string): Promise<string> =>
  await page.$eval(selector, (e) => e.textContent ?? '').catch(() => '');

export const waitForText = async (page: Page, selector: string, pattern: RegExp, timeout = 30_000): Promise<void> => {
  await page.waitForFunction(
    (s: string, source: string) => new RegExp(source).test(document.querySelector(s)?.textContent ?? ''),
    { timeout, polling: 100 },
    selector,
    pattern.source,
  );
};

/** Waits for what the run bar says of the run that is shown; a run that ends otherwise ends the wait. */
export async function waitForRun(page: Page, pattern: RegExp, timeout = 30_000): Promise<void> {
  const found = await page.waitForFunction(
    (source: string) => {
      const text = document.querySelector('[data-testid=run-state]')?.textContent ?? '';
      if (new RegExp(source).test(text)) return 'there';
      if (!/^(failed|interrupted|cancelled|damaged)/.test(text)) return false;
      return `${text} ${document.querySelector('[role=alert]')?.textContent ?? ''}`;
    },
    { timeout, polling: 100 },
    pattern.source,
  );
  const text = await found.jsonValue();
  if (text !== 'there') throw new Error(`the run did not come to ${String(pattern)}: ${String(text)}`);
}

/** Waits until the server has no run of the shot left to do; throws when one failed. */
export async function runsDone(address: string, slug: string): Promise<ShotDto> {
  for (;;) {
    const shot = (await (await fetch(`${address}/api/shots/${slug}`)).json()) as ShotDto;
    const bad = shot.runs.find((r) => r.state === 'failed' || r.state === 'interrupted');
    if (bad) throw new Error(`run ${String(bad.number)} ${bad.state}: ${bad.error?.message ?? ''}`);
    if (shot.runs.every((r) => r.state !== 'queued' && r.state !== 'running')) return shot;
    await new Promise((r) => setTimeout(r, 150));
  }
}

/** Waits until the viewport has drawn all that it has to, in its finest picture, and waits for no frame: while one is on its way the last picture stays. */
export const atRest = async (page: Page): Promise<void> => {
  await page.evaluate(() => (document.body.dataset['calm'] = '0'));
  await page.waitForFunction(
    () => {
      const waits = document.querySelector('[data-testid=awaited], [role=status][data-testid=arriving]') !== null;
      const rests = document.querySelector('[data-testid=viewport][data-rest=true]') !== null;
      // Over a few pictures: what has just come is drawn in the next one.
      const calm = rests && !waits ? Number(document.body.dataset['calm']) + 1 : 0;
      document.body.dataset['calm'] = String(calm);
      return calm >= 3;
    },
    { polling: 'raf' },
  );
};

/** Waits until nothing opens, closes or fades any more. */
export const still = async (page: Page): Promise<void> => {
  await page.waitForFunction(() =>
    document.getAnimations().every((a) => a.playState !== 'running' || a.effect?.getTiming().iterations === Infinity),
  );
};

/** What is on the screen, as it is: the page is not laid out anew for the picture (that would be a resize). */
export const pictureOf = async (page: Page, clip?: ScreenshotClip): Promise<string> =>
  await page.screenshot({ encoding: 'base64', captureBeyondViewport: false, ...(clip ? { clip } : {}) });

/** Types into a number field and commits it. */
export async function typeNumber(page: Page, label: string, text: string): Promise<void> {
  await press(page, label);
  await page.keyboard.down('Control');
  await page.keyboard.press('a');
  await page.keyboard.up('Control');
  await page.keyboard.type(text);
  await page.keyboard.press('Enter');
}

export interface Smoke {
  /** Part of the picture that is brighter than smoke at its thinnest. */
  readonly part: number;
  /** Mean brightness of those pixels, 0..1. */
  readonly brightness: number;
  /** Spread of brightness among them: flat white would be 0. */
  readonly contrast: number;
  /** Centre, as a part of the picture's width and height. */
  readonly x: number;
  readonly y: number;
}

/**
 * The smoke in the viewport: where a picture of the screen is lighter than one of the yard without any (the edges of what stands there are light too), and
 * nearly grey.
 */
export async function smokeIn(page: Page, yard: string): Promise<Smoke> {
  const canvas = await page.waitForSelector('[data-testid=viewport]');
  const box = await canvas?.boundingBox();
  if (!box) throw new Error('no viewport');
  const png = await pictureOf(page);
  // Without the bars over it.
  const clip = { x: box.x, y: box.y + 56, width: box.width, height: box.height - 130 };
  return await page.evaluate(
    async (now: string, before: string, c: { x: number; y: number; width: number; height: number }) => {
      const pixelsOf = async (data: string): Promise<ImageData> => {
        const image = new Image();
        image.src = `data:image/png;base64,${data}`;
        await image.decode();
        const context = new OffscreenCanvas(Math.round(c.width), Math.round(c.height)).getContext('2d')!;
        context.drawImage(image, -c.x, -c.y);
        return context.getImageData(0, 0, Math.round(c.width), Math.round(c.height));
      };
      const [{ data: p, width, height }, { data: q }] = [await pixelsOf(now), await pixelsOf(before)];
      let [count, sum, squares, sx, sy] = [0, 0, 0, 0, 0];
      for (let y = 0; y < height; y++) {
        for (let x = 0; x < width; x++) {
          const o = (y * width + x) * 4;
          const [r, g, b] = [p[o]!, p[o + 1]!, p[o + 2]!];
          const light = (r + g + b) / 3;
          if (light < 60 || light - (q[o]! + q[o + 1]! + q[o + 2]!) / 3 < 18 || Math.max(r, g, b) - Math.min(r, g, b) > 40) continue;
          count++;
          sum += light / 255;
          squares += (light / 255) ** 2;
          sx += x;
          sy += y;
        }
      }
      const mean = sum / count;
      return {
        part: count / (width * height),
        brightness: mean,
        contrast: Math.sqrt(squares / count - mean * mean),
        x: sx / count / width,
        y: sy / count / height,
      };
    },
    png,
    yard,
    clip,
  );
}

/** A shot file's settings with groups of its solve replaced; what they leave out has its default. */
export function fileSettings(settings: Settings, groups: object): object {
  return { ...settings, passes: settings.passes.map((p) => (p.kind === 'gas' ? { ...p, settings: { ...p.settings, ...groups } } : p)) };
}
