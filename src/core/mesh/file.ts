import { strFromU8 } from 'fflate';
import * as z from 'zod';
import { RuddleError } from '#core/errors';
import type { AnyGeometry } from './forms';
import { POINT_ATTRIBUTES } from './points';

/**
 * Geometry as bytes: eight letters, the length of a JSON head (u32, little-endian), the head, padding to 4 bytes, then the arrays that it names in
 * its order. The same geometry gives the same bytes: their SHA-256 is its name.
 */
const MAGIC = 'RUDGEOM1';

const count = z.number().int().min(0);
const headSchema = z.object({
  kind: z.enum(['mesh', 'distance', 'points', 'picture']),
  /** Of points: files, points, and the arrays that there are besides positions. */
  files: count.optional(),
  points: count.optional(),
  arrays: z.array(z.string()).readonly().optional(),
  rate: z.number().min(0),
  count: count.min(1),
  vertices: count,
  triangles: count,
  origin: z.array(z.number()).readonly(),
  spacing: z.number(),
  size: z.array(count).readonly(),
});
type Head = z.output<typeof headSchema>;

export function encodeGeometry(geometry: AnyGeometry): Uint8Array<ArrayBuffer> {
  if (geometry.kind === 'picture') {
    const { width, height, values } = geometry.picture;
    return pack({ ...NOTHING, kind: 'picture', size: [width, height] }, [values]);
  }
  if (geometry.kind === 'points') {
    const { numbers, starts, positions, velocities, ids, radii, attributes } = geometry;
    const more: [string, Float32Array | Int32Array][] = [
      ...(velocities ? [['velocities', velocities] as [string, Float32Array]] : []),
      ...(ids ? [['ids', ids] as [string, Int32Array]] : []),
      ...(radii ? [['radii', radii] as [string, Float32Array]] : []),
      ...Object.entries(attributes),
    ];
    const head: Head = {
      ...NOTHING,
      kind: 'points',
      files: numbers.length,
      points: positions.length / 3,
      arrays: more.map(([name]) => name),
    };
    return pack(head, [numbers, starts, positions, ...more.map(([, a]) => a)]);
  }
  const head: Head =
    geometry.kind === 'mesh'
      ? {
          kind: 'mesh',
          rate: geometry.rate,
          count: geometry.count,
          vertices: geometry.mesh.positions.length / 3,
          triangles: geometry.mesh.triangles.length / 3,
          origin: [],
          spacing: 0,
          size: [],
        }
      : {
          kind: 'distance',
          rate: 0,
          count: 1,
          vertices: 0,
          triangles: 0,
          origin: geometry.grid.origin,
          spacing: geometry.grid.spacing,
          size: geometry.grid.size,
        };
  const arrays =
    geometry.kind === 'mesh'
      ? [geometry.mesh.positions, geometry.mesh.triangles, ...(geometry.samples ? [geometry.samples] : [])]
      : [geometry.grid.values];
  return pack(head, arrays);
}

const NOTHING = { rate: 0, count: 1, vertices: 0, triangles: 0, origin: [], spacing: 0, size: [] } as const;

function pack(head: Head, arrays: readonly (Float32Array | Int32Array | Uint32Array)[]): Uint8Array<ArrayBuffer> {
  const text = Uint8Array.from(JSON.stringify(head), (c) => c.charCodeAt(0));
  const start = Math.ceil((12 + text.length) / 4) * 4;
  const bytes = new Uint8Array(start + arrays.reduce((n, a) => n + a.byteLength, 0));
  bytes.set(
    Uint8Array.from(MAGIC, (c) => c.charCodeAt(0)),
    0,
  );
  new DataView(bytes.buffer).setUint32(8, text.length, true);
  bytes.set(text, 12);
  let at = start;
  for (const a of arrays) {
    bytes.set(new Uint8Array(a.buffer, a.byteOffset, a.byteLength), at);
    at += a.byteLength;
  }
  return bytes;
}

function readHead(bytes: Uint8Array): Head | null {
  try {
    // Decoded in one go: as arguments of a call, its letters could be more than a stack holds.
    return headSchema.safeParse(JSON.parse(strFromU8(bytes, true))).data ?? null;
  } catch {
    return null;
  }
}

const rising = (values: Int32Array): boolean => values.every((v, n) => n === 0 || v >= (values[n - 1] ?? 0));

/** Throws `file-invalid` when the bytes are not whole. */
export function decodeGeometry(bytes: Uint8Array, file: string): AnyGeometry {
  const refuse = (reason: string): never => {
    throw new RuddleError('file-invalid', `${file} is not geometry that Ruddle wrote: ${reason}.`, { file, reason });
  };
  if (bytes.length < 12 || String.fromCharCode(...bytes.subarray(0, 8)) !== MAGIC) refuse('it does not begin with its letters');
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(8, true);
  if (12 + length > bytes.length) refuse('it ends too early');
  // Bytes come from bundles too: whatever their head claims is held against what is there.
  const head = readHead(bytes.subarray(12, 12 + length)) ?? refuse('its head cannot be read');
  let at = Math.ceil((12 + length) / 4) * 4;
  const take = (count: number): ArrayBuffer => {
    if (!Number.isInteger(count) || count < 0 || at + 4 * count > bytes.length) refuse('it ends too early');
    // A copy of its own: slice() of Node's buffers would be a view of a pool.
    const part = new Uint8Array(bytes.subarray(at, at + 4 * count)).buffer;
    at += 4 * count;
    return part;
  };
  if (head.kind === 'points') {
    const points = head.points ?? 0;
    const numbers = new Int32Array(take(head.files ?? 0));
    const starts = new Int32Array(take((head.files ?? 0) + 1));
    if (!rising(numbers) || !rising(starts) || starts[0] !== 0 || starts[starts.length - 1] !== points)
      refuse('its files do not fit its points');
    const positions = new Float32Array(take(3 * points));
    const more = new Map((head.arrays ?? []).map((name) => [name, take(name === 'velocities' ? 3 * points : points)]));
    const floats = (name: string): Float32Array | null => {
      const found = more.get(name);
      return found ? new Float32Array(found) : null;
    };
    const ids = more.get('ids');
    const attributes = Object.fromEntries(POINT_ATTRIBUTES.flatMap((name) => (more.has(name) ? [[name, floats(name)]] : [])));
    return {
      kind: 'points',
      numbers,
      starts,
      positions,
      velocities: floats('velocities'),
      ids: ids ? new Int32Array(ids) : null,
      radii: floats('radii'),
      attributes,
    };
  }
  if (head.kind === 'picture') {
    const [width, height] = [head.size[0] ?? 0, head.size[1] ?? 0];
    return { kind: 'picture', picture: { width, height, values: new Float32Array(take(width * height)) } };
  }
  if (head.kind === 'distance') {
    const [nx, ny, nz] = [head.size[0] ?? 0, head.size[1] ?? 0, head.size[2] ?? 0];
    const origin = [head.origin[0] ?? 0, head.origin[1] ?? 0, head.origin[2] ?? 0] as const;
    return { kind: 'distance', grid: { origin, spacing: head.spacing, size: [nx, ny, nz], values: new Float32Array(take(nx * ny * nz)) } };
  }
  const positions = new Float32Array(take(3 * head.vertices));
  const triangles = new Uint32Array(take(3 * head.triangles));
  for (const v of triangles) if (v >= head.vertices) refuse('a triangle has a vertex that does not exist');
  const samples = head.count > 1 ? new Float32Array(take(3 * head.vertices * head.count)) : null;
  return { kind: 'mesh', mesh: { positions, triangles }, samples, rate: head.rate, count: head.count };
}
