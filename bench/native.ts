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

/** Builds a reference; null (with the reason said) where it cannot be. */
function build(name: string, flags: readonly string[], say: (text: string) => void): string | null {
  mkdirSync(OUT, { recursive: true });
  const binary = join(OUT, name);
  const r = spawnSync('g++', ['-O3', '-march=native', '-std=c++17', `bench/native/${name}.cpp`, '-o', binary, ...flags], {
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

/** What the C++ of a liquid's particle stages prints: seconds of a substep. */
export interface LiquidReference {
  readonly sorting: number;
  readonly transfer: number;
  readonly surface: number;
  readonly moving: number;
}

export function liquidReference(say: (text: string) => void): ((rounds: number) => LiquidReference) | null {
  const binary = build('liquid', [], say);
  return binary === null ? null : (rounds) => run<LiquidReference>(binary, String(rounds));
}

/** What the C++ of a skin prints: seconds of the polygons of a dense grid, and of the distance of sorted particles. */
export interface SurfaceReference {
  readonly polygons: number;
  readonly distance: number;
  readonly triangles: number;
}

type Three = readonly [number, number, number];

/** Files of particles, field and table; voxel size and reach; the field's size. */
export function surfaceReference(
  say: (text: string) => void,
):
  | ((
      files: readonly [string, string, string],
      count: number,
      sizes: readonly [number, number],
      size: Three,
      rounds: number,
    ) => SurfaceReference)
  | null {
  const binary = build('surface', [], say);
  if (binary === null) return null;
  return ([particles, field, table], count, [h, reach], size, rounds) =>
    run<SurfaceReference>(binary, particles, String(count), String(h), String(reach), field, ...size.map(String), table, String(rounds));
}

/** A library that users could pick instead, asked to solve the same pressure system on one thread. */
interface Library {
  readonly name: string;
  readonly program: string;
  readonly header: string;
  /** Debian's. */
  readonly packages: readonly string[];
  readonly flags: readonly string[];
}

export const LIBRARIES: readonly Library[] = [
  {
    name: 'Eigen, conjugate gradients with incomplete Cholesky',
    program: 'incomplete-cholesky',
    header: '/usr/include/eigen3/Eigen/Sparse',
    packages: ['libeigen3-dev'],
    flags: ['-I', '/usr/include/eigen3'],
  },
  {
    name: 'OpenVDB, its Poisson solver',
    program: 'sparse-volumes',
    header: '/usr/include/openvdb/tools/PoissonSolver.h',
    packages: ['libopenvdb-dev', 'libboost-dev', 'libtbb-dev'],
    flags: ['-lopenvdb', '-ltbb'],
  },
];

export interface Solved {
  readonly seconds: number;
  readonly iterations: number;
  readonly residual: number;
}

/** Installed where it is missing and that is possible (Debian, as root, with its packages in reach); null, with the reason said, where it is not. */
export function librarySolver(
  { name, program, header, packages, flags }: Library,
  say: (text: string) => void,
): ((n: number) => Solved) | null {
  if (!existsSync(header) && existsSync('/etc/debian_version') && process.getuid?.() === 0) {
    spawnSync('apt-get', ['install', '-y', '--no-install-recommends', ...packages], {
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    });
  }
  if (!existsSync(header)) {
    say(`${name}: not installed (Debian: ${packages.join(', ')}), left out.`);
    return null;
  }
  const binary = build(program, flags, say);
  return binary === null ? null : (n) => run<Solved>(binary, String(n));
}
