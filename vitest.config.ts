import { defineConfig } from 'vitest/config';
import { playwright } from '@vitest/browser-playwright';
import { EvenShards } from './scripts/lib/even-shards';
import { CHROMIUM_ARGUMENTS, findChromium } from './scripts/lib/browser.mjs';
import { nodeWorkers } from './scripts/lib/node-worker-plugin';

const PURE = ['src/core/**/*.test.ts', 'src/kernels/**/*.test.ts'];

export default defineConfig({
  plugins: [nodeWorkers()],
  // Spoilt copies of the project (scripts/mutants) share its packages, but not what was made of them.
  cacheDir: process.env['RUDDLE_VITE_CACHE'] ?? 'node_modules/.vite',
  test: {
    sequence: { sequencer: EvenShards },
    projects: [
      {
        extends: true,
        test: {
          name: 'unit',
          include: ['src/**/*.test.ts', 'scripts/**/*.test.ts'],
          exclude: ['src/web/**/*.page.test.ts', ...PURE],
          environment: 'node',
          // Of what hangs only: beside other work a test takes several times as long as by itself.
          testTimeout: 300_000,
          hookTimeout: 120_000,
          expect: { poll: { timeout: 60_000 } },
          pool: 'forks',
          maxWorkers: 2,
        },
      },
      {
        extends: true,
        test: {
          name: 'unit-core',
          include: PURE,
          environment: 'node',
          testTimeout: 300_000,
          hookTimeout: 120_000,
          pool: 'forks',
          maxWorkers: 2,
          // Pure code has nothing to leave behind: with a process a file, a third of the time went to reading the same modules and warming them up again.
          isolate: false,
        },
      },
      {
        extends: true,
        test: {
          name: 'fuzz',
          include: ['src/**/*.fuzz.ts'],
          environment: 'node',
          testTimeout: 3_600_000,
          pool: 'forks',
          maxWorkers: 2,
        },
      },
      {
        extends: true,
        // Found at the start and not while a test runs: a package that is optimised later reloads the page under the tests.
        optimizeDeps: {
          entries: ['src/web/**/*.{ts,tsx}'],
          include: ['vitest-browser-react', 'react/jsx-dev-runtime', 'react-dom/client'],
        },
        test: {
          name: 'components',
          include: ['src/web/**/*.test.tsx', 'src/web/**/*.page.test.ts'],
          setupFiles: ['src/web/testing/set-up.ts'],
          testTimeout: 60_000,
          expect: { poll: { timeout: 15_000 } },
          browser: {
            enabled: true,
            headless: true,
            screenshotFailures: false,
            provider: playwright({ launchOptions: { executablePath: findChromium(), args: CHROMIUM_ARGUMENTS } }),
            instances: [{ browser: 'chromium', viewport: { width: 1280, height: 800 } }],
          },
        },
      },
      {
        extends: true,
        test: {
          name: 'e2e',
          include: ['test/**/*.e2e.ts'],
          environment: 'node',
          globalSetup: ['test/global-setup.ts'],
          testTimeout: 600_000,
          hookTimeout: 240_000,
          expect: { poll: { timeout: 30_000 } },
          fileParallelism: false,
          pool: 'forks',
        },
      },
    ],
  },
});
