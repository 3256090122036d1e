import { launchBrowser } from './scripts/lib/browser.mjs';
const address = 'http://127.0.0.1:4899';
const browser = await launchBrowser();
const page = await browser.newPage();
await page.setViewport({ width: 1280, height: 800 });
const rest = (ms) => new Promise((r) => setTimeout(r, ms));
const out = '/tmp/pics';
const keep = async (name, path, wait, act) => { await page.goto(`${address}${path}`); await rest(wait); if (act) await act(); await page.screenshot({ path: `${out}/${name}.png` }); };
const choose = async (select, option) => { await (await page.waitForSelector(`aria/${select}`)).click(); await (await page.waitForSelector(`aria/${option}`)).click(); await rest(2500); };
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
  await page.waitForFunction(() => document.querySelector('[data-testid=run-state]')?.textContent === 'follows every change');
  await rest(4000);
});

await browser.close();
