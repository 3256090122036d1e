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
const finer = shot.variants.find((v) => v.name === 'Finer');
const run = shot.runs.find((r) => r.variantId === finer.id && r.state === 'done');
if (!run) throw new Error("The demo's Tests are not computed yet.");

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
const bench = `/bench/kiln-stack?variant=${finer.id}&run=${run.id}`;

await theme('dark');
await keep('shots', '/shots', 2500);
await keep('bench', `${bench}&frame=88`, 5000);
await keep('bench-sources', `${bench}&frame=40&group=sources&channel=temperature`, 5000);
await theme('light');
await keep('bench-light', `${bench}&frame=70&group=forces`, 4000, () => choose('Slice', 'Slice across z'));
await browser.close();
