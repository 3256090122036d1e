// Everything that must hold before a change lands, one after the other; stops at the first that fails.
import { spawnSync } from 'node:child_process';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const bin = (name) => join(root, 'node_modules/.bin', name);

const steps = [
  ['format', bin('prettier'), ['--check', '.']],
  ['lint', bin('eslint'), ['.', '--max-warnings', '0']],
  ['types', bin('tsc'), ['-b', 'tsconfig.build.json']],
  ['pages', bin('astro'), ['check', '--minimumFailingSeverity', 'error']],
  ['import rules', bin('depcruise'), ['--config', 'dependency-cruiser.config.cjs', 'src', 'test', 'bench']],
  ['dead code', bin('knip'), []],
  ['documents', process.execPath, ['scripts/build-docs.mjs', '--check']],
  ['unit tests', bin('vitest'), ['run', '--project', 'unit']],
  ['fuzzing', bin('vitest'), ['run', '--project', 'fuzz']],
  ['component tests', bin('vitest'), ['run', '--project', 'components']],
  ['end-to-end tests', bin('vitest'), ['run', '--project', 'e2e']],
];

const env = { ...process.env, ASTRO_TELEMETRY_DISABLED: '1', npm_config_loglevel: 'error' };
for (const [name, command, args] of steps) {
  const began = Date.now();
  console.log(`\n── ${name}`);
  const { status } = spawnSync(command, args, { cwd: root, stdio: 'inherit', env });
  console.log(`   ${status === 0 ? 'ok' : 'FAILED'}, ${((Date.now() - began) / 1000).toFixed(1)} s`);
  if (status !== 0) process.exit(status ?? 1);
}
console.log(`\nEverything holds.\n\n${steps.length} passed, 0 failed`);
