// Everything that must hold before a change lands; stops after the first group in which a step fails.
import { spawn } from 'node:child_process';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const bin = (name) => join(root, 'node_modules/.bin', name);

/** Each looks at the sources with one thread of its own: two at a time, the longest first. */
const looks = [
  ['lint', bin('eslint'), ['.', '--max-warnings', '0']],
  ['types', bin('tsc'), ['-b', 'tsconfig.build.json']],
  // Of the pages alone: with the project's own configuration it went through all that tsc has looked at, in five times the time.
  ['pages', bin('astro'), ['check', '--tsconfig', 'tsconfig.pages.json', '--minimumFailingSeverity', 'error']],
  ['format', bin('prettier'), ['--check', '.']],
  ['import rules', bin('depcruise'), ['--config', 'dependency-cruiser.config.cjs', 'src', 'test', 'bench']],
  ['dead code', bin('knip'), []],
  ['documents', process.execPath, ['scripts/build-docs.mjs', '--check']],
];
/** Takes all cores itself. */
const units = ['unit tests', bin('vitest'), ['run', '--project', 'unit*']];
/** A server, a browser and a test take turns and leave half of two cores idle: two at a time, each with a server and a browser of its own. */
const PARTS = [1, 2, 3];
const rest = [
  ...PARTS.map((n) => [
    `end-to-end tests, part ${n} of ${PARTS.length}`,
    bin('vitest'),
    ['run', '--project', 'e2e', `--shard=${n}/${PARTS.length}`],
  ]),
  ['component tests', bin('vitest'), ['run', '--project', 'components']],
  ['fuzzing', bin('vitest'), ['run', '--project', 'fuzz', '--maxWorkers', '1']],
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
      resolve(status === 0);
    });
  });
}

async function twoAtATime(steps) {
  const waiting = [...steps];
  const worker = async () => {
    let all = true;
    for (let step = waiting.shift(); step; step = waiting.shift()) all = (await run(step, true)) && all;
    return all;
  };
  return (await Promise.all([worker(), worker()])).every(Boolean);
}

// A group goes on to its end when a step fails, so that all that is wrong is told; the next group does not begin.
const holds = (await twoAtATime(looks)) && (await run(units, false)) && (await twoAtATime(rest));
if (!holds) process.exit(1);
console.log(`\nEverything holds.\n\n${looks.length + 1 + rest.length} passed, 0 failed`);
