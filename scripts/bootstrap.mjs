// Makes a fresh clone ready, with Node's own modules only: npm packages, kernels, site, and (for tests) Debian packages. Quick when nothing
// is missing: built outputs carry the hash of what they were built from.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, readdirSync, statSync, symlinkSync, writeFileSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const purpose = process.argv[2] ?? 'start';
const stamps = join(root, 'node_modules/.cache/ruddle');

const say = (text) => console.log(`· ${text}`);

function run(command, args, options = {}) {
  const result = spawnSync(command, args, { cwd: root, stdio: 'inherit', ...options });
  if (result.status !== 0) {
    console.error(`\n${command} ${args.join(' ')} failed${result.error ? `: ${result.error.message}` : ''}.`);
    process.exit(result.status ?? 1);
  }
}

function hashOf(paths) {
  const hash = createHash('sha256');
  const visit = (path) => {
    if (!existsSync(path)) return;
    if (statSync(path).isDirectory()) {
      for (const name of readdirSync(path).sort()) if (name !== 'generated') visit(join(path, name));
    } else if (!/\.test\.tsx?$/.test(path)) {
      hash.update(relative(root, path));
      hash.update(readFileSync(path));
    }
  };
  for (const p of paths) visit(join(root, p));
  return hash.digest('hex');
}

/** Does something once for a given hash of its inputs, and again when an output is gone. */
function once(name, inputs, outputs, action) {
  const stamp = join(stamps, name);
  const hash = hashOf(inputs);
  const done = existsSync(stamp) && readFileSync(stamp, 'utf8') === hash && outputs.every((o) => existsSync(join(root, o)));
  if (done) return;
  action();
  mkdirSync(stamps, { recursive: true });
  writeFileSync(stamp, hash);
}

const [major] = process.versions.node.split('.').map(Number);
if (major < 20) {
  console.error(`Ruddle needs Node 20 or later; this is ${process.version}.`);
  process.exit(1);
}

function npm(...args) {
  const path = process.env.npm_execpath;
  const all = [...args, '--no-audit', '--no-fund', '--loglevel=error'];
  if (path) run(process.execPath, [path, ...all]);
  else run('npm', all);
}

/** Whether packages are there as the lock file says: those that running and building need (`run`), or the tests' too (`all`). */
const lock = hashOf(['package.json', 'package-lock.json']);
const installed = (what) =>
  ['node_modules/astro/package.json', ...(what === 'all' ? ['node_modules/vitest/package.json'] : [])].every((f) =>
    existsSync(join(root, f)),
  ) &&
  existsSync(join(stamps, `install-${what}`)) &&
  readFileSync(join(stamps, `install-${what}`), 'utf8') === lock;
if (!installed('all') && !(purpose === 'start' && installed('run'))) {
  say('installing packages (about a minute)');
  // Test tools are a third of all packages: they come when tests do, beside what is there.
  if (purpose === 'start') npm('ci', '--omit=dev');
  else if (installed('run')) npm('install', '--no-save');
  else npm('ci');
  mkdirSync(stamps, { recursive: true });
  writeFileSync(join(stamps, `install-${purpose === 'start' ? 'run' : 'all'}`), lock);
}
const bin = join(root, 'node_modules/.bin/ruddle');
if (!existsSync(bin)) symlinkSync('../../bin/ruddle.mjs', bin);

if (purpose === 'dev') {
  once('kernels', ['src/kernels/assembly', 'scripts/build-kernels.mjs'], ['src/kernels/generated/kernels.ts'], () => {
    say('building kernels');
    run(process.execPath, ['scripts/build-kernels.mjs']);
  });
} else {
  const inputs = ['src', 'public', 'scripts', 'astro.config.ts', 'package-lock.json', 'server-guard.mjs'];
  once('build', inputs, ['dist/server/entry.mjs', 'dist/cli/entry.mjs', 'src/kernels/generated/kernels.ts'], () => {
    say('building kernels, site and command line');
    run(process.execPath, ['scripts/build.mjs']);
  });
}

if (purpose === 'test') {
  const packages = [
    ['chromium', () => existsSync('/usr/bin/chromium')],
    // The reader that our files are tested against runs in Debian's own Python.
    ['python3-openvdb', () => spawnSync('/usr/bin/python3', ['-c', 'import pyopenvdb'], { stdio: 'ignore' }).status === 0],
    // The reader that meshes are tested against.
    ['assimp-utils', () => existsSync('/usr/bin/assimp')],
    ['python3-numpy', () => spawnSync('/usr/bin/python3', ['-c', 'import numpy'], { stdio: 'ignore' }).status === 0],
  ];
  const missing = packages.filter(([, present]) => !present()).map(([name]) => name);
  if (missing.length > 0) {
    say(`installing ${missing.join(', ')}`);
    const prefix = process.getuid?.() === 0 ? [] : ['sudo'];
    const apt = (...args) => {
      const [command, ...rest] = [...prefix, 'apt-get', ...args];
      run(command, rest, { env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }, stdio: ['ignore', 'ignore', 'inherit'] });
    };
    apt('update', '-qq');
    apt('install', '-y', '-qq', '--no-install-recommends', ...missing);
  }
}
