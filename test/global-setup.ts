import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { TestProject } from 'vitest/node';
import { launchBrowser } from '../scripts/lib/browser.mjs';
import { startServer } from './server-process';

declare module 'vitest' {
  interface ProvidedContext {
    readonly address: string;
    readonly browser: string;
    readonly data: string;
  }
}

/** One built server and one browser for all end-to-end tests; each test takes its own browser context. */
export default async function setup(project: TestProject): Promise<() => Promise<void>> {
  const data = mkdtempSync(join(tmpdir(), 'ruddle-e2e-'));
  const server = await startServer({ RUDDLE_DATA: data, RUDDLE_DEMO: '0', RUDDLE_CALIBRATE: '0', RUDDLE_PORT: '0' });
  const browser = await launchBrowser();
  project.provide('address', server.address);
  project.provide('browser', browser.wsEndpoint());
  project.provide('data', data);
  return async () => {
    await browser.close();
    await server.stop();
    rmSync(data, { recursive: true, force: true });
  };
}
