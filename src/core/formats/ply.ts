import { utf8ToBytes } from '@noble/hashes/utils.js';

/** Particles of a frame, as columns: metres, m/s and seconds of the computation, y up. */
export interface ParticleColumns {
  readonly count: number;
  /** x, y, z, age of each. */
  readonly places: Float32Array;
  /** vx, vy, vz, age limit of each. */
  readonly motions: Float32Array;
  readonly ids: Uint32Array;
  /** Further columns that were asked for and are there, by name: in metres where they are lengths (`radius`). */
  readonly more?: Readonly<Record<string, Float32Array>>;
}

export interface PlyConvention {
  readonly metresPerUnit: number;
  readonly upAxis: 'y' | 'z';
  /** Seconds of the computation in a second of the shot. */
  readonly timeScale: number;
}

/** What a particle may have beside its place, velocity, age and number: a column of floats; `length` scales with the scene's units. */
export interface PlyAttribute {
  readonly name: string;
  readonly values: ArrayLike<number>;
  readonly of: 'length' | 'number';
}

const PROPERTIES = ['x', 'y', 'z', 'vx', 'vy', 'vz', 'age'];

/**
 * Particles as binary little-endian .ply, in scene units and seconds of the shot: position, velocity, age, age limit where they have one, further attributes
 * (float), id (uint). Turning by a quarter, for z up, maps y to z and z to -y.
 */
export function writePly(
  { count, places, motions, ids }: ParticleColumns,
  { metresPerUnit, upAxis, timeScale }: PlyConvention,
  /** Left out: the fourth of a motion is an age limit. */
  attributes?: readonly PlyAttribute[],
): Uint8Array<ArrayBuffer> {
  const names = [...PROPERTIES, ...(attributes ? attributes.map((a) => a.name) : ['life'])];
  const stride = 4 * names.length + 4;
  const head = utf8ToBytes(
    `ply\nformat binary_little_endian 1.0\ncomment Ruddle: scene units and seconds of the shot\nelement vertex ${String(count)}\n` +
      `${names.map((p) => `property float ${p}\n`).join('')}property uint id\nend_header\n`,
  );
  const out = new Uint8Array(head.length + count * stride);
  out.set(head);
  const view = new DataView(out.buffer);
  const length = 1 / metresPerUnit;
  const speed = timeScale / metresPerUnit;
  const second = 1 / timeScale;
  const z = upAxis === 'z';
  for (let i = 0, o = 0, at = head.length; i < count; i++, o += 4, at += stride) {
    const [y1, z1] = [places[o + 1] as number, places[o + 2] as number];
    const [y2, z2] = [motions[o + 1] as number, motions[o + 2] as number];
    view.setFloat32(at, (places[o] as number) * length, true);
    view.setFloat32(at + 4, (z ? -z1 : y1) * length, true);
    view.setFloat32(at + 8, (z ? y1 : z1) * length, true);
    view.setFloat32(at + 12, (motions[o] as number) * speed, true);
    view.setFloat32(at + 16, (z ? -z2 : y2) * speed, true);
    view.setFloat32(at + 20, (z ? y2 : z2) * speed, true);
    view.setFloat32(at + 24, (places[o + 3] as number) * second, true);
    let next = at + 28;
    if (!attributes) {
      view.setFloat32(next, (motions[o + 3] as number) * second, true);
      next += 4;
    } else {
      for (const { values, of } of attributes) {
        view.setFloat32(next, (values[i] as number) * (of === 'length' ? length : 1), true);
        next += 4;
      }
    }
    view.setUint32(next, ids[i] as number, true);
  }
  return out;
}

/** Most points of a preview. */
export const PREVIEW_POINTS = 200_000;

/**
 * Points to look at: positions in 16 bits a side of their box, speed (of `fastest`) and age (of its limit) in 8 bits. `share` of the frame's particles:
 * chosen by number, so that the same ones are seen in every frame.
 */
export interface PointsPreview {
  /** Metres. */
  readonly min: readonly [number, number, number];
  readonly max: readonly [number, number, number];
  /** m/s of the computation. */
  readonly fastest: number;
  readonly of: number;
  readonly count: number;
  /** x, y, z each. */
  readonly places: Uint16Array;
  readonly speeds: Uint8Array;
  readonly ages: Uint8Array;
  /** Where each goes, of length 127: x, y, z each; null: it is not said. */
  readonly directions: Int8Array | null;
}

const WORDS = 12;
const POINTS_MAGIC = 0x31_70_70_72; // "rpp1"
/** The same with directions behind the ages. */
const WAYS_MAGIC = 0x32_70_70_72; // "rpp2"

/** One in `every` by number (ids divisible by it). `aged`: whether the fourth of a motion is an age limit; `ways`: whether it is said where each goes. */
export function pointsPreview(
  { count: all, places: from, motions, ids }: ParticleColumns,
  every: number,
  aged = true,
  ways = false,
): Uint8Array<ArrayBuffer> {
  const min = [Infinity, Infinity, Infinity] as [number, number, number];
  const max = [-Infinity, -Infinity, -Infinity] as [number, number, number];
  const speed = (i: number): number => {
    const [x, y, z] = [motions[4 * i] as number, motions[4 * i + 1] as number, motions[4 * i + 2] as number];
    return Math.sqrt(x * x + y * y + z * z);
  };
  let fastest = 0;
  let count = 0;
  for (let i = 0; i < all; i++) {
    if ((ids[i] as number) % every !== 0) continue;
    count++;
    for (const a of [0, 1, 2] as const) {
      const v = from[4 * i + a] as number;
      if (v < min[a]) min[a] = v;
      if (v > max[a]) max[a] = v;
    }
    fastest = Math.max(fastest, speed(i));
  }
  const out = new Uint8Array(4 * WORDS + (ways ? 11 : 8) * count);
  const view = new DataView(out.buffer);
  view.setInt32(0, ways ? WAYS_MAGIC : POINTS_MAGIC, true);
  view.setUint32(4, count, true);
  view.setUint32(8, all, true);
  view.setFloat32(12, fastest, true);
  for (const a of [0, 1, 2] as const) {
    view.setFloat32(16 + 4 * a, count > 0 ? min[a] : 0, true);
    view.setFloat32(28 + 4 * a, count > 0 ? max[a] : 0, true);
  }
  const places = 4 * WORDS;
  let n = 0;
  for (let i = 0; i < all; i++) {
    if ((ids[i] as number) % every !== 0) continue;
    for (const a of [0, 1, 2] as const) {
      const v = max[a] > min[a] ? ((from[4 * i + a] as number) - min[a]) / (max[a] - min[a]) : 0;
      view.setUint16(places + 6 * n + 2 * a, Math.round(v * 65535), true);
    }
    out[places + 6 * count + n] = fastest > 0 ? Math.round((speed(i) / fastest) * 255) : 0;
    if (aged) out[places + 7 * count + n] = Math.min(255, Math.round(((from[4 * i + 3] as number) / (motions[4 * i + 3] as number)) * 255));
    const own = speed(i);
    if (ways && own > 0)
      for (let a = 0; a < 3; a++) view.setInt8(places + 8 * count + 3 * n + a, Math.round((127 * (motions[4 * i + a] as number)) / own));
    n++;
  }
  return out;
}

/** null when the bytes are not a whole preview of points. */
export function readPointsPreview(bytes: Uint8Array<ArrayBuffer>): PointsPreview | null {
  if (bytes.length < 4 * WORDS) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const count = view.getUint32(4, true);
  const magic = view.getInt32(0, true);
  const ways = magic === WAYS_MAGIC;
  if ((!ways && magic !== POINTS_MAGIC) || bytes.length !== 4 * WORDS + (ways ? 11 : 8) * count) return null;
  const three = (at: number): [number, number, number] => [
    view.getFloat32(at, true),
    view.getFloat32(at + 4, true),
    view.getFloat32(at + 8, true),
  ];
  const places = 4 * WORDS;
  return {
    min: three(16),
    max: three(28),
    fastest: view.getFloat32(12, true),
    of: view.getUint32(8, true),
    count,
    places: new Uint16Array(bytes.slice(places, places + 6 * count).buffer),
    speeds: bytes.slice(places + 6 * count, places + 7 * count),
    ages: bytes.slice(places + 7 * count, places + 8 * count),
    directions: ways ? new Int8Array(bytes.slice(places + 8 * count).buffer) : null,
  };
}
