import { launchBrowser } from './scripts/lib/browser.mjs';
const browser = await launchBrowser();
const page = await browser.newPage();
await page.setViewport({ width: 1280, height: 800 });
const sleep = (ms) => new Promise((r) => setTimeout(r, ms));
for (const g of ['scale','bounds','detail','sources']) { await page.goto('http://127.0.0.1:4899/bench/tank?group=' + g, { waitUntil: 'networkidle2' }); await sleep(1500);
console.log(g, await page.evaluate(() => [...document.querySelectorAll('[role=tabpanel] [aria-label], [role=tabpanel] [role=combobox]')].map((e) => e.getAttribute('aria-label') ?? e.id + '=' + e.textContent).join(' | '))); }
await browser.close();
