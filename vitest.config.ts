import { defineConfig } from 'vitest/config';
import { nodeWorkers } from './scripts/lib/node-worker-plugin';

export default defineConfig({
  plugins: [nodeWorkers()],
  test: {
    projects: [
      {
        extends: true,
        test: {
          name: 'unit',
          include: ['src/**/*.test.ts', 'scripts/**/*.test.ts'],
          environment: 'node',
          testTimeout: 60_000,
          hookTimeout: 60_000,
          pool: 'forks',
          maxWorkers: 2,
        },
      },
      {
        extends: true,
        test: {
          name: 'e2e',
          include: ['test/**/*.e2e.ts'],
          environment: 'node',
          globalSetup: ['test/global-setup.ts'],
          testTimeout: 240_000,
          hookTimeout: 240_000,
          fileParallelism: false,
          pool: 'forks',
        },
      },
    ],
  },
});
