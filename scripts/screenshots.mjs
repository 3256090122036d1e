// docs/screenshots from a running application with the demo shot computed: npm start, wait for its Tests, then
// npm run screenshots -- http://127.0.0.1:4820
import { mkdir } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { launchBrowser } from './lib/browser.mjs';

const address = process.argv[2] ?? 'http://127.0.0.1:4820';
const out = join(dirname(fileURLToPath(import.meta.url)), '../docs/screenshots');
await mkdir(out, { recursive: true });

const shot = await (await fetch(`${address}/api/shots/kiln-stack`)).json();
if (shot.runs.filter((r) => r.state === 'done').length < 3) throw new Error("The demo's Tests are not computed yet.");

const browser = await launchBrowser();
const page = await browser.newPage();
const rest = (ms) => new Promise((resolve) => setTimeout(resolve, ms));
const theme = async (name) => {
  await page.goto(`${address}/shots`);
  await page.evaluate((t) => localStorage.setItem('ruddle.theme', t), name);
};
const keep = async (name, path, wait, act) => {
  await page.goto(`${address}${path}`);
  await rest(wait);
  if (act) await act();
  await page.screenshot({ path: join(out, `${name}.png`) });
};
const choose = async (select, option) => {
  await (await page.waitForSelector(`aria/${select}`)).click();
  await (await page.waitForSelector(`aria/${option}`)).click();
  await rest(2500);
};
const at = (variant, more = '') => {
  const v = shot.variants.find((w) => w.name === variant);
  const r = shot.runs.findLast((w) => w.variantId === v.id && w.state === 'done');
  return `/bench/kiln-stack?variant=${v.id}&run=${r.id}${more}`;
};
const coarse = shot.runs.find((r) => r.variantId === shot.variants.find((v) => v.name === 'Coarse').id && r.state === 'done');

// The passes of the finer variant, each from its Test.
const finer = shot.variants.find((w) => w.name === 'Finer');
const json = { 'content-type': 'application/json' };
for (const pass of finer.settings.passes.slice(1)) {
  const body = JSON.stringify({ variantId: finer.id, rung: 'test', pass: pass.id });
  await fetch(`${address}/api/runs`, { method: 'POST', headers: json, body });
}
for (;;) {
  const { passRuns } = await (await fetch(`${address}/api/shots/kiln-stack`)).json();
  if (passRuns.every((r) => r.state !== 'queued' && r.state !== 'running')) break;
  await rest(500);
}

await theme('dark');
await keep('bench-passes', `/bench/kiln-stack?variant=${finer.id}&pass=ash&frame=88`, 5000);
await keep('bench-finer', `/bench/kiln-stack?variant=${coarse.variantId}&pass=finer&frame=84`, 4000, async () => {
  await page.evaluate(() => [...document.querySelectorAll('button')].find((b) => b.textContent === 'Beside what it reads').click());
  await rest(5000);
});
await keep('shots', '/shots', 2500);
await keep('clean-up', '/shots', 2500, async () => {
  await page.evaluate(() => [...document.querySelectorAll('button')].find((b) => b.textContent === 'Clean up').click());
  await rest(1000);
  await (await page.waitForSelector('tbody tr')).click();
  await rest(500);
});
await keep('bench', at('Finer', '&frame=88'), 5000);
await keep('bench-sources', at('Finer', '&frame=40&group=sources&channel=temperature'), 5000);
await keep('bench-findings', at('Rushed', '&frame=64&group=stepping'), 4000, async () => {
  await page.keyboard.down('Shift');
  await page.keyboard.press('N');
  await page.keyboard.up('Shift');
  await rest(2500);
});
await keep('bench-comparing', at('Finer', `&frame=80&with=${coarse.id}`), 12000);
await keep('bench-sketching', at('Rushed'), 4000, async () => {
  await (await page.waitForSelector('button[data-rung=Sketch]')).click();
  await page.mouse.move(700, 300);
  await page.waitForFunction(
    () => Number(/, (\d+) of/.exec(document.querySelector('[data-testid=run-state]')?.textContent ?? '')?.[1]) > 75,
  );
});
const of = async (slug) => {
  const other = await (await fetch(`${address}/api/shots/${slug}`)).json();
  return `/bench/${slug}?run=${other.runs.findLast((r) => r.state === 'done').id}`;
};
await keep('bench-fire', `${await of('kiln-door')}&frame=40&group=matter`, 5000);
await keep('bench-liquid', `${await of('slip-sluice')}&frame=44&group=detail`, 5000, async () => {
  await (await page.waitForSelector('aria/Particles[role="button"]')).click();
  for (const name of ['Surface', 'Red slip']) {
    await rest(600);
    await page.evaluate(
      (text) => [...document.querySelectorAll('[role=dialog] button')].find((b) => b.textContent === text)?.click(),
      name,
    );
  }
  await page.keyboard.press('Escape');
  await rest(2500);
});
await keep('bench-dust', `${await of('crusher-dust')}&frame=72&group=solids`, 5000);
await keep('bench-geometry', `${await of('crusher-dust')}&frame=20&group=solids`, 5000, async () => {
  await choose('Slice', 'Slice across z');
  await choose('Channel of the slice', "Solids' distance");
  await (await page.waitForSelector('::-p-xpath(//button[starts-with(., "Swing jaw")])')).click();
  await rest(800);
  await (await page.waitForSelector('::-p-xpath(//button[. = "Measure the gap"])')).click();
  await page.waitForSelector('[aria-label=Gap]');
  await page.evaluate(() => document.querySelector('[aria-label=Gap]').scrollIntoView());
  await rest(1500);
});
await keep('bench-forces', `${await of('crusher-dust')}&frame=64&group=forces`, 5000, async () => {
  await choose('Slice', 'Slice across y');
  await choose('Channel of the slice', 'Forces as arrows');
  const slider = await page.waitForSelector('aria/Where the slice is');
  await slider.focus();
  for (let n = 0; n < 35; n++) await page.keyboard.press('ArrowLeft');
  await rest(2500);
});
const slip = await (await fetch(`${address}/api/shots/slip-sluice`)).json();
const skin = slip.passRuns.findLast((r) => r.passId === 'skin' && r.state === 'done');
const surface = `/bench/slip-sluice?variant=${skin.variantId}&pass=skin&run=${skin.id}`;
const filters = () => page.evaluate(() => document.querySelector('section[aria-label=Filters]').scrollIntoView());
await keep('surface', `${surface}&frame=34`, 5000, async () => {
  await filters();
  await rest(1000);
});
await keep('surface-wire', `${surface}&frame=34`, 4000, async () => {
  await choose('How the skin is drawn', 'Wireframe');
  await choose('Particles beside the skin', 'Those outside');
});
await keep('surface-two', `${surface}&frame=34`, 4000, async () => {
  await (await page.waitForSelector('aria/Hold this skin')).click();
  await filters();
  await (await page.waitForSelector('aria/Mean curvature 1: Times')).click({ count: 3 });
  await page.keyboard.type('30');
  await page.keyboard.press('Enter');
  await (await page.waitForSelector('button[data-rung=Try]')).click();
  await page.mouse.move(700, 400);
  await page.waitForFunction(() => document.querySelector('[data-testid=run-state]')?.textContent === 'follows every change');
  await rest(4000);
});
await theme('light');
await keep('bench-light', at('Finer', '&frame=70&group=forces'), 4000, () => choose('Slice', 'Slice across z'));
// A run of its own, looked at while it computes, then ended.
await theme('dark');
await keep('bench-running', at('Finer'), 4000, async () => {
  await (await page.waitForSelector('button[data-rung=Final]')).click();
  await page.mouse.move(700, 300);
  await rest(30000);
});
const running = (await (await fetch(`${address}/api/shots/kiln-stack`)).json()).runs.find((r) => r.state === 'running');
if (running)
  await fetch(`${address}/api/runs/${running.id}/cancel`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: '{}' });
await browser.close();
