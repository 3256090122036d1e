import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync } from 'node:fs';
import { join } from 'node:path';

/** What the C++ reference prints: seconds, and iterations of the pressure solves. */
export interface Reference {
  readonly semiLagrangian: number;
  readonly macCormack: number;
  readonly bytes: number;
  readonly bytesIterations: number;
  readonly fractions: number;
  readonly fractionsIterations: number;
  readonly triadBytesPerSecond: number;
}

const OUT = 'node_modules/.cache/bench';
const EIGEN = '/usr/include/eigen3';

/** Builds a reference; null (with the reason said) where it cannot be. */
function build(name: string, flags: readonly string[], say: (text: string) => void): string | null {
  mkdirSync(OUT, { recursive: true });
  const binary = join(OUT, name);
  const r = spawnSync('g++', ['-O3', '-march=native', '-std=c++17', ...flags, `bench/native/${name}.cpp`, '-o', binary], {
    encoding: 'utf8',
  });
  if (r.error) say('No C++ compiler (g++) on this machine: the native references are left out.');
  else if (r.status !== 0) say(`The reference ${name} does not compile:\n${r.stderr}`);
  return r.status === 0 ? binary : null;
}

const run = <T>(binary: string, ...args: string[]): T => JSON.parse(spawnSync(binary, args, { encoding: 'utf8' }).stdout) as T;

export function nativeReference(say: (text: string) => void): ((n: number, rounds: number) => Reference) | null {
  const binary = build('reference', [], say);
  return binary === null ? null : (n, rounds) => run<Reference>(binary, String(n), String(rounds));
}

export function incompleteCholesky(
  say: (text: string) => void,
): ((n: number) => { seconds: number; iterations: number; residual: number }) | null {
  if (!existsSync(EIGEN)) {
    say('The library to compare conjugate gradients with (Debian: libeigen3-dev) is not installed: left out.');
    return null;
  }
  const binary = build('incomplete-cholesky', ['-I', EIGEN], say);
  return binary === null ? null : (n) => run(binary, String(n));
}
