// npm run fuzz [times]: the fuzz suite with so many times the cases of `npm test` (50: about half an hour) and another seed each time; what fails is
// found again with RUDDLE_FUZZ_SEED.
import { spawnSync } from 'node:child_process';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const times = process.argv[2] ?? '50';
if (!/^[1-9]\d*$/.test(times)) {
  console.error(`npm run fuzz takes how many times as much it does, a whole number; "${times}" is none.`);
  process.exit(1);
}
const seed = process.env.RUDDLE_FUZZ_SEED ?? String(Math.floor(Math.random() * 2 ** 31));
console.log(`${times} times as much, RUDDLE_FUZZ_SEED=${seed}`);
const { status } = spawnSync(join(root, 'node_modules/.bin/vitest'), ['run', '--project', 'fuzz'], {
  cwd: root,
  stdio: 'inherit',
  env: { ...process.env, RUDDLE_FUZZ_TIMES: times, RUDDLE_FUZZ_SEED: seed },
});
process.exit(status ?? 1);
