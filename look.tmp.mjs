import { launchBrowser } from './scripts/lib/browser.mjs';
const [, , base, out, ...steps] = process.argv;
const browser = await launchBrowser();
const page = await browser.newPage();
await page.setViewport({ width: 1280, height: 800 });
page.on('pageerror', (e) => console.log('PAGEERROR', e.message));
page.on('console', (m) => { if (m.type() === 'error') console.log('CONSOLE', m.text()); });
await page.goto(base, { waitUntil: 'networkidle2' }).catch(() => {});
const sleep = (ms) => new Promise((r) => setTimeout(r, ms));
let n = 0;
for (const step of steps) {
  const [what, ...rest] = step.split(':');
  const arg = rest.join(':');
  if (what === 'wait') await sleep(Number(arg));
  else if (what === 'key') await page.keyboard.press(arg);
  else if (what === 'down') await page.keyboard.down(arg);
  else if (what === 'up') await page.keyboard.up(arg);
  else if (what === 'text') { const ok = await page.evaluate((t) => { const re = new RegExp(t); const e = [...document.querySelectorAll('button,[role=tab],[role=menuitem],[role=option],li,[role=combobox]')].find((x) => re.test(x.textContent) || re.test(x.getAttribute('aria-label') ?? '')); if (!e) return false; e.dispatchEvent(new MouseEvent('mousedown',{bubbles:true})); e.click(); return true; }, arg); if (!ok) console.log('no', arg); await sleep(400); }
  else if (what === 'scroll') { await page.evaluate((y) => { const e=[...document.querySelectorAll('[role=tabpanel] > div')].find(x=>x.scrollHeight>x.clientHeight+5); if(e) e.scrollTop=Number(y); }, arg); await sleep(300); }
  else if (what === 'shot') await page.screenshot({ path: `${out}-${arg || n++}.png` });
  else if (what === 'say') console.log(await page.evaluate((s) => document.querySelector(s)?.textContent ?? 'none', arg));
}
await browser.close();
