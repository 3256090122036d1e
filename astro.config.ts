import node from '@astrojs/node';
import react from '@astrojs/react';
import { defineConfig } from 'astro/config';
import { nodeWorkers } from './scripts/lib/node-worker-plugin';
import { guard } from './server-guard.mjs';

export default defineConfig({
  output: 'server',
  adapter: node({ mode: 'standalone' }),
  integrations: [
    react(),
    {
      name: 'ruddle-guard',
      hooks: {
        'astro:server:setup': ({ server }) => {
          server.middlewares.use((request, response, next) => {
            if (guard(request, response, { development: true })) next();
          });
        },
      },
    },
  ],
  devToolbar: { enabled: false },
  // The guard refuses foreign origins for every request, not only for forms.
  security: { checkOrigin: false },
  server: { host: '127.0.0.1' },
  vite: {
    plugins: [nodeWorkers()],
    worker: { format: 'es' },
    build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 1500 },
    ssr: { external: ['@libsql/client', 'sharp'] },
    optimizeDeps: { entries: ['src/web/**/*.{ts,tsx}'] },
  },
});
