// npm run mutants: plants one fault after the other in copies of the project, and runs the tests that must catch it. Fails when one is not caught, or
// when the list does not fit the code any more. `npm run mutants -- wall` takes those whose names hold the word.
import { spawn } from 'node:child_process';
import { cp, mkdtemp, readFile, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { MUTANTS } from './list.mjs';

const root = join(dirname(fileURLToPath(import.meta.url)), '../..');
const AT_ONCE = 2;
/** Of the tests of one fault, milliseconds. */
const LONGEST = 300_000;
const COPIED = ['src', 'scripts', 'test', 'demo', 'drizzle', 'bin', 'public', 'docs'];
const FILES = ['package.json', 'vitest.config.ts', 'tsconfig.json', 'tsconfig.app.json', 'tsconfig.core.json', 'server-guard.mjs'];

/** @param {string} command @param {string[]} args @param {string} cwd @returns {Promise<{ code: number | null; output: string }>} */
const run = (command, args, cwd) =>
  new Promise((resolve) => {
    const env = { ...process.env, ASTRO_TELEMETRY_DISABLED: '1', RUDDLE_VITE_CACHE: join(cwd, '.vite') };
    // A fault may make a test wait for ever: that is not passing it either, but it is not told apart from a broken run.
    const child = spawn(command, args, { cwd, env, timeout: LONGEST });
    let output = '';
    child.stdout.on('data', (d) => (output += d));
    child.stderr.on('data', (d) => (output += d));
    child.on('close', (code) => resolve({ code, output }));
  });

/** A copy of the project that may be spoilt. */
async function copyOfProject() {
  const folder = await mkdtemp(join(tmpdir(), 'ruddle-mutants-'));
  for (const name of COPIED) await cp(join(root, name), join(folder, name), { recursive: true });
  for (const name of FILES) await cp(join(root, name), join(folder, name));
  await symlink(join(root, 'node_modules'), join(folder, 'node_modules'));
  return folder;
}

/** Runs tests in a copy: how many failed, or why they could not be run. */
async function testsIn(folder, project, tests) {
  const report = join(folder, 'report.json');
  await rm(report, { force: true });
  const args = [
    'run',
    '--project',
    project === 'unit' ? 'unit*' : project,
    '--bail',
    '1',
    '--reporter',
    'json',
    '--outputFile',
    report,
    '--maxWorkers',
    '1',
    ...tests,
  ];
  const { output } = await run(join(root, 'node_modules/.bin/vitest'), args, folder);
  const text = await readFile(report, 'utf8').catch(() => null);
  if (text === null) return { failed: 0, passed: 0, broken: output.slice(-2000) };
  const { numFailedTests: failed, numPassedTests: passed, testResults } = JSON.parse(text);
  const unread = testResults.find((r) => r.status === 'failed' && r.assertionResults.length === 0);
  const first = testResults.flatMap((r) => r.assertionResults).find((r) => r.status === 'failed');
  return { failed, passed, by: first?.fullName ?? '', broken: failed === 0 && unread ? String(unread.message).slice(0, 2000) : null };
}

const kernel = (file) => file.startsWith('src/kernels/assembly/');
const buildKernels = (folder) => run(process.execPath, ['scripts/build-kernels.mjs'], folder);

/** null: caught; else what is wrong. */
async function tryMutant(folder, { name, file, from, to, project = 'unit', tests }) {
  const path = join(folder, file);
  const before = await readFile(path, 'utf8');
  const places = before.split(from).length - 1;
  if (places !== 1) return { problem: `its text stands ${String(places)} times in ${file}` };
  const generated = join(folder, 'src/kernels/generated');
  try {
    await writeFile(
      path,
      before.replace(from, () => to),
    );
    if (kernel(file)) {
      const built = await buildKernels(folder);
      if (built.code !== 0) return { problem: `does not compile: ${built.output.slice(-800)}` };
    }
    const { failed, passed, broken, by } = await testsIn(folder, project, tests);
    if (broken) return { problem: `its tests cannot be run: ${broken}` };
    return failed > 0 ? { by } : { problem: `NOT CAUGHT by ${String(passed)} tests of ${tests.join(', ')}` };
  } finally {
    await writeFile(path, before);
    if (kernel(file)) await cp(join(root, 'src/kernels/generated'), generated, { recursive: true });
  }
}

const words = process.argv.slice(2).map((w) => w.toLowerCase());
const chosen = MUTANTS.filter((m) => words.every((w) => m.name.toLowerCase().includes(w) || m.file.toLowerCase().includes(w)));
const queue = [...chosen];
const problems = [];
const began = Date.now();
console.log(`${String(chosen.length)} faults, ${String(AT_ONCE)} at once`);
await Promise.all(
  Array.from({ length: AT_ONCE }, async () => {
    const folder = await copyOfProject();
    try {
      for (let m = queue.shift(); m; m = queue.shift()) {
        const { problem, by } = await tryMutant(folder, m);
        if (problem) problems.push(`${m.name}: ${problem}`);
        console.log(`${problem ? '✗' : '✓'} ${m.name}${problem ? `\n    ${problem}` : `  (${by})`}`);
      }
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  }),
);
console.log(
  `\n${String(chosen.length - problems.length)} of ${String(chosen.length)} caught, ${((Date.now() - began) / 1000).toFixed(0)} s`,
);
if (problems.length > 0 || chosen.length === 0) process.exit(1);
