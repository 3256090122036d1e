#!/usr/bin/env node
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const bundle = new URL('../dist/cli/entry.mjs', import.meta.url);
if (existsSync(fileURLToPath(bundle))) await import(bundle.href);
else {
  console.error('Ruddle is not built yet. Run `npm run build` (or `npm start`, or `npm test`) once.');
  process.exitCode = 1;
}
