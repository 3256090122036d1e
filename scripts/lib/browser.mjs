// Headless Chromium as the tests and the screenshots use it: Debian's package, a fresh profile, WebGL2 in software.
import { existsSync } from 'node:fs';
import puppeteer from 'puppeteer-core';

const EXECUTABLES = ['/usr/bin/chromium', '/usr/bin/chromium-browser', '/usr/bin/google-chrome'];

export const CHROMIUM_ARGUMENTS = [
  '--no-sandbox',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--disable-dev-shm-usage',
  '--use-angle=swiftshader',
  '--enable-unsafe-swiftshader',
  '--hide-scrollbars',
];

/** The installed browser's path; the first that is looked for when there is none, so that its absence is told by whoever starts it. */
export const findChromium = () => EXECUTABLES.find((p) => existsSync(p)) ?? EXECUTABLES[0];

/** @returns {Promise<import('puppeteer-core').Browser>} */
export async function launchBrowser() {
  const executablePath = findChromium();
  if (!existsSync(executablePath)) throw new Error('Chromium is not installed; `npm test` installs it.');
  return await puppeteer.launch({
    executablePath,
    headless: true,
    args: CHROMIUM_ARGUMENTS,
    // As at home: pages that change their address too often are held back.
    ignoreDefaultArgs: ['--disable-ipc-flooding-protection'],
    defaultViewport: { width: 1280, height: 800 },
  });
}
