import { statSync } from 'node:fs';
import type { BufferAttribute, InterleavedBufferAttribute } from 'three';
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js';
import { RuddleError } from '#core/errors';
import type { PointsGeometry } from '#core/mesh';
import { wrongWithPly } from './check-ply';
import { unpackZip } from './unpack';

const MOST_POINTS = 20e6;

interface Cloud {
  readonly number: number;
  readonly positions: Float32Array;
  readonly velocities: Float32Array | null;
  readonly ids: Int32Array | null;
  readonly radii: Float32Array | null;
  readonly ages: Float32Array | null;
}

/** What a file lacks comes as an attribute of no numbers. */
function floats(a: BufferAttribute | InterleavedBufferAttribute | undefined): Float32Array | null {
  const values = a ? Float32Array.from(a.array as ArrayLike<number>) : null;
  return values && values.length > 0 && !values.every(Number.isNaN) ? values : null;
}

/** Points of a .ply file; null when it has triangles. */
function readCloud(bytes: Uint8Array, number: number): Cloud | null {
  const loader = new PLYLoader();
  loader.setCustomPropertyNameMapping({ velocity: ['vx', 'vy', 'vz'], id: ['id'], age: ['age'], ball: ['radius'] });
  const geometry = loader.parse(bytes.slice().buffer);
  if (geometry.getIndex()) return null;
  const of = (name: string): Float32Array | null => floats(geometry.attributes[name]);
  const positions = of('position');
  if (!positions) return null;
  const ids = of('id');
  return { number, positions, velocities: of('velocity'), ids: ids && Int32Array.from(ids), radii: of('ball'), ages: of('age') };
}

/** A single file of points; null when it is a mesh. */
export function readPointFile(bytes: Uint8Array): PointsGeometry | null {
  if (wrongWithPly(bytes) !== null) return null;
  const cloud = readCloud(bytes, 0);
  return cloud && joinClouds([cloud]);
}

/** All files of a series, unpacked: more points than are read. */
const MOST_BYTES = 2e9;

/** The numbered .ply files of a .zip on the disk. Throws `file-invalid`. */
export function readPointSeries(path: string, file: string, progress: (part: number) => void = () => undefined): PointsGeometry {
  const refuse = (reason: string): never => {
    throw new RuddleError('file-invalid', `${file}: ${reason}.`, { file, reason });
  };
  const size = statSync(path).size;
  const seen = new Set<number>();
  const clouds: Cloud[] = [];
  unpackZip(path, file, {
    wanted: (name) => /\.ply$/i.test(name),
    most: MOST_BYTES,
    progress: (bytes) => {
      progress(bytes / size);
    },
    take: (name, data) => {
      const number = Number(/(-?\d+)\.ply$/i.exec(name)?.[1] ?? NaN);
      if (Number.isNaN(number)) refuse(`${name} has no number before .ply: which frame it is cannot be told`);
      if (seen.has(number)) refuse(`two of its files have the number ${String(number)}`);
      seen.add(number);
      const wrong = wrongWithPly(data);
      if (wrong !== null) refuse(`${name}: ${wrong}`);
      clouds.push(readCloud(data, number) ?? refuse(`${name} is a mesh, not points; import it by itself`));
    },
  });
  if (clouds.length === 0) refuse('it holds no .ply files');
  clouds.sort((a, b) => a.number - b.number);
  const points = clouds.reduce((n, c) => n + c.positions.length / 3, 0);
  if (points === 0) refuse('its files have no points');
  if (points > MOST_POINTS) refuse(`it has ${String(points)} points; ${String(MOST_POINTS)} are the most`);
  clouds.forEach((c) => {
    if (!c.positions.every(Number.isFinite)) refuse(`a position in the file of number ${String(c.number)} is not a number`);
  });
  return joinClouds(clouds);
}

/** One after the other; what not every file has is left out. */
function joinClouds(clouds: readonly Cloud[]): PointsGeometry {
  const all = (pick: (c: Cloud) => Float32Array | null): Float32Array | null => {
    const parts = clouds.map(pick);
    if (parts.some((p) => p === null)) return null;
    const out = new Float32Array(parts.reduce((n, p) => n + (p?.length ?? 0), 0));
    let at = 0;
    for (const p of parts) {
      if (!p) continue;
      out.set(p, at);
      at += p.length;
    }
    return out;
  };
  const starts = new Int32Array(clouds.length + 1);
  clouds.forEach((c, n) => (starts[n + 1] = (starts[n] ?? 0) + c.positions.length / 3));
  const ids = all((c) => c.ids && Float32Array.from(c.ids));
  const velocities = all((c) => c.velocities);
  const ages = all((c) => c.ages);
  const positions = all((c) => c.positions) ?? new Float32Array(0);
  const numbers = Int32Array.from(clouds, (c) => c.number);
  const speed =
    velocities &&
    Float32Array.from({ length: velocities.length / 3 }, (_v, n) =>
      Math.hypot(velocities[3 * n] ?? 0, velocities[3 * n + 1] ?? 0, velocities[3 * n + 2] ?? 0),
    );
  return {
    kind: 'points',
    numbers,
    starts,
    positions,
    velocities,
    ids: ids && Int32Array.from(ids),
    radii: all((c) => c.radii),
    attributes: { ...(speed ? { speed } : {}), ...(ages ? { age: ages } : {}), ...accelerations(clouds, starts) },
  };
}

/** Change of velocity a frame, as a rate a file; the shot's frame rate turns it into m/s^2 where it is asked for. */
function accelerations(clouds: readonly Cloud[], starts: Int32Array): { acceleration?: Float32Array } {
  if (clouds.length < 2 || clouds.some((c) => !c.ids || !c.velocities)) return {};
  const out = new Float32Array(starts[clouds.length] ?? 0);
  let before = new Map<number, readonly [number, number, number]>();
  clouds.forEach((c, file) => {
    const now = new Map<number, readonly [number, number, number]>();
    const gap = Math.max(1, c.number - (clouds[file - 1]?.number ?? c.number));
    c.ids?.forEach((id, n) => {
      const v = [c.velocities?.[3 * n] ?? 0, c.velocities?.[3 * n + 1] ?? 0, c.velocities?.[3 * n + 2] ?? 0] as const;
      const old = before.get(id);
      out[(starts[file] ?? 0) + n] = old ? Math.hypot(v[0] - old[0], v[1] - old[1], v[2] - old[2]) / gap : 0;
      now.set(id, v);
    });
    before = now;
  });
  return { acceleration: out };
}
