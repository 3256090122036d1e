// Everything that must hold before a change lands; stops at the first that fails.
import { spawn } from 'node:child_process';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const bin = (name) => join(root, 'node_modules/.bin', name);

/** Each looks at the sources with one thread of its own: two at a time, the longest first. */
const looks = [
  ['lint', bin('eslint'), ['.', '--max-warnings', '0']],
  ['types', bin('tsc'), ['-b', 'tsconfig.build.json']],
  ['pages', bin('astro'), ['check', '--minimumFailingSeverity', 'error']],
  ['format', bin('prettier'), ['--check', '.']],
  ['import rules', bin('depcruise'), ['--config', 'dependency-cruiser.config.cjs', 'src', 'test', 'bench']],
  ['dead code', bin('knip'), []],
  ['documents', process.execPath, ['scripts/build-docs.mjs', '--check']],
];
/** These take all cores themselves. */
const tests = [
  ['unit tests', bin('vitest'), ['run', '--project', 'unit']],
  ['fuzzing', bin('vitest'), ['run', '--project', 'fuzz']],
  ['component tests', bin('vitest'), ['run', '--project', 'components']],
  ['end-to-end tests', bin('vitest'), ['run', '--project', 'e2e']],
];

const env = { ...process.env, ASTRO_TELEMETRY_DISABLED: '1', npm_config_loglevel: 'error' };

/** Runs a step to its end; `quiet`: what it prints is held back until then, so that two do not mix theirs. */
function run([name, command, args], quiet) {
  const began = Date.now();
  if (!quiet) console.log(`\n── ${name}`);
  const child = spawn(command, args, { cwd: root, env, stdio: quiet ? ['ignore', 'pipe', 'pipe'] : 'inherit' });
  const said = [];
  for (const stream of [child.stdout, child.stderr]) stream?.on('data', (chunk) => said.push(chunk));
  return new Promise((resolve) => {
    child.on('error', (error) => said.push(Buffer.from(String(error))));
    child.on('close', (status) => {
      if (quiet) process.stdout.write(`\n── ${name}\n${Buffer.concat(said).toString()}`);
      console.log(`   ${status === 0 ? 'ok' : 'FAILED'}, ${((Date.now() - began) / 1000).toFixed(1)} s`);
      if (status !== 0) process.exit(status ?? 1);
      resolve();
    });
  });
}

const waiting = [...looks];
const worker = async () => {
  for (let step = waiting.shift(); step; step = waiting.shift()) await run(step, true);
};
await Promise.all([worker(), worker()]);
for (const step of tests) await run(step, false);
console.log(`\nEverything holds.\n\n${looks.length + tests.length} passed, 0 failed`);
