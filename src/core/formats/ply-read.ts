import { RuddleError } from '#core/errors';
import type { ParticleColumns, PlyConvention } from './ply';

type Get = (view: DataView, at: number, little: boolean) => number;
/** Numbers of a .ply by their names: how many bytes each takes, and how it is read. */
const TYPES: Readonly<Record<string, readonly [number, Get]>> = Object.fromEntries(
  (
    [
      [['char', 'int8'], 1, (v, at) => v.getInt8(at)],
      [['uchar', 'uint8'], 1, (v, at) => v.getUint8(at)],
      [['short', 'int16'], 2, (v, at, l) => v.getInt16(at, l)],
      [['ushort', 'uint16'], 2, (v, at, l) => v.getUint16(at, l)],
      [['int', 'int32'], 4, (v, at, l) => v.getInt32(at, l)],
      [['uint', 'uint32'], 4, (v, at, l) => v.getUint32(at, l)],
      [['float', 'float32'], 4, (v, at, l) => v.getFloat32(at, l)],
      [['double', 'float64'], 8, (v, at, l) => v.getFloat64(at, l)],
    ] as const satisfies readonly (readonly [readonly string[], number, Get])[]
  ).flatMap(([names, bytes, get]) => names.map((name) => [name, [bytes, get] as const])),
);

/** No header that a program writes is longer. */
const LONGEST_HEADER = 64 * 1024;

/** A call takes only so many characters. */
const CHUNK = 8192;
function textOf(bytes: Uint8Array): string {
  let text = '';
  for (let n = 0; n < bytes.length; n += CHUNK) text += String.fromCharCode(...bytes.subarray(n, n + CHUNK));
  return text;
}

interface Header {
  readonly format: 'ascii' | 'binary_little_endian' | 'binary_big_endian';
  readonly count: number;
  readonly properties: readonly { readonly name: string; readonly type: string; readonly bytes: number; readonly get: Get }[];
  /** Where the points begin. */
  readonly body: number;
}

function headerOf(bytes: Uint8Array, refuse: (reason: string) => never): Header {
  const head = textOf(bytes.subarray(0, LONGEST_HEADER));
  if (!/^ply\r?\n/.test(head)) refuse('it does not begin with "ply"');
  const end = /\nend_header\r?\n/.exec(head) ?? refuse('its header has no end');
  const lines = head.slice(0, end.index).split(/\r?\n/);
  const format = /^format (\S+)/.exec(lines.find((l) => l.startsWith('format ')) ?? '')?.[1];
  if (format !== 'ascii' && format !== 'binary_little_endian' && format !== 'binary_big_endian')
    return refuse(`its format "${format ?? ''}" is not known`);
  const first = lines.findIndex((l) => l.startsWith('element '));
  const count = Number(/^element vertex (\d+)$/.exec(lines[first]?.trim() ?? '')?.[1] ?? NaN);
  if (!Number.isInteger(count)) refuse('its first element are no vertices');
  const rest = lines.slice(first + 1);
  const own = rest.slice(0, [...rest.map((l) => l.startsWith('element ')), true].indexOf(true));
  const properties = own
    .filter((l) => l.startsWith('property '))
    .map((l) => {
      const [, type = '', name = ''] = l.trim().split(/\s+/);
      const [size, get] = TYPES[type] ?? refuse(`its property "${l.trim()}" is no number`);
      return { name, type, bytes: size, get };
    });
  for (const name of ['x', 'y', 'z']) if (!properties.some((p) => p.name === name)) refuse(`its vertices have no ${name}`);
  return { format, count, properties, body: end.index + end[0].length };
}

const refusal =
  (file: string) =>
  (reason: string): never => {
    throw new RuddleError('file-invalid', `${file}: ${reason}.`, { file, reason });
  };

/** Columns of a file by their names; null: it has none of this name. */
function columnsOf(
  bytes: Uint8Array,
  { format, count, properties, body }: Header,
  refuse: (reason: string) => never,
): (name: string) => ((n: number) => number) | null {
  const stride = properties.reduce((n, p) => n + p.bytes, 0);
  const ascii = format === 'ascii';
  // An ASCII number takes at least a digit, and what parts it from the next.
  if (bytes.length - body < count * (ascii ? 2 * properties.length - 1 : stride)) refuse('it ends before its last point');
  const words = ascii ? textOf(bytes.subarray(body)).split(/\s+/).filter(Boolean) : [];
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const little = format === 'binary_little_endian';
  return (name) => {
    const k = properties.findIndex((p) => p.name === name);
    const own = properties[k];
    if (!own) return null;
    if (ascii) return (n) => Number(words[n * properties.length + k]);
    const offset = body + properties.slice(0, k).reduce((n, p) => n + p.bytes, 0);
    const { get } = own;
    return (n) => get(view, offset + n * stride, little);
  };
}

export interface PlySummary {
  readonly format: string;
  readonly count: number;
  /** As they are in the file, in its units; null: no point has a finite value. */
  readonly properties: readonly {
    readonly name: string;
    readonly type: string;
    readonly minimum: number | null;
    readonly maximum: number | null;
    readonly mean: number | null;
    /** Points whose value is not a number or not finite. */
    readonly broken: number;
  }[];
}

/** What is in a .ply file of points. Throws `file-invalid`. */
export function summarizePly(bytes: Uint8Array, file: string): PlySummary {
  const refuse = refusal(file);
  const header = headerOf(bytes, refuse);
  const columns = columnsOf(bytes, header, refuse);
  const properties = header.properties.map(({ name, type }) => {
    const at = columns(name);
    let [low, high, sum, finite] = [Infinity, -Infinity, 0, 0];
    for (let n = 0; at && n < header.count; n++) {
      const value = at(n);
      if (!Number.isFinite(value)) continue;
      low = Math.min(low, value);
      high = Math.max(high, value);
      sum += value;
      finite++;
    }
    const some = finite > 0;
    return {
      name,
      type,
      minimum: some ? low : null,
      maximum: some ? high : null,
      mean: some ? sum / finite : null,
      broken: header.count - finite,
    };
  });
  return { format: header.format, count: header.count, properties };
}

/** Names of what a file's points have. Throws `file-invalid`. */
export const plyProperties = (bytes: Uint8Array, file: string): string[] => headerOf(bytes, refusal(file)).properties.map((p) => p.name);

/**
 * Points of a .ply file, ASCII or binary, as particles: metres, seconds of the computation, y up; what `writePly` did is undone. Velocity, age and age limit
 * are 0 where a file has none, numbers count the points. Throws `file-invalid`.
 */
export function readPly(
  bytes: Uint8Array,
  { metresPerUnit, upAxis, timeScale }: PlyConvention,
  file: string,
  /** Further columns, by their names; one that the file does not have is left out. */
  wanted: readonly string[] = [],
): ParticleColumns {
  const refuse = refusal(file);
  const header = headerOf(bytes, refuse);
  const { count } = header;
  const columnOf = columnsOf(bytes, header, refuse);
  const none = (): number => 0;
  const column = (name: string): ((n: number) => number) => columnOf(name) ?? none;
  const [x, y, z, vx, vy, vz] = ['x', 'y', 'z', 'vx', 'vy', 'vz'].map(column) as [
    (n: number) => number,
    (n: number) => number,
    (n: number) => number,
    (n: number) => number,
    (n: number) => number,
    (n: number) => number,
  ];
  const [age, life, id] = [column('age'), column('life'), columnOf('id')];
  const places = new Float32Array(4 * count);
  const motions = new Float32Array(4 * count);
  const ids = new Uint32Array(count);
  const up = upAxis === 'z';
  const speed = metresPerUnit / timeScale;
  for (let n = 0, o = 0; n < count; n++, o += 4) {
    const [a, b, va, vb] = [y(n), z(n), vy(n), vz(n)];
    places[o] = x(n) * metresPerUnit;
    places[o + 1] = (up ? b : a) * metresPerUnit;
    places[o + 2] = (up ? 0 - a : b) * metresPerUnit;
    places[o + 3] = age(n) * timeScale;
    motions[o] = vx(n) * speed;
    motions[o + 1] = (up ? vb : va) * speed;
    motions[o + 2] = (up ? 0 - va : vb) * speed;
    motions[o + 3] = life(n) * timeScale;
    ids[n] = id ? id(n) : n;
    if (!Number.isFinite((places[o] ?? 0) + (places[o + 1] ?? 0) + (places[o + 2] ?? 0))) refuse(`point ${String(n)} has no position`);
  }
  if (wanted.length === 0) return { count, places, motions, ids };
  const more: Record<string, Float32Array> = {};
  for (const name of wanted) {
    const own = columnOf(name);
    if (!own) continue;
    const scale = name === 'radius' ? metresPerUnit : 1;
    more[name] = Float32Array.from({ length: count }, (_v, n) => own(n) * scale);
  }
  return { count, places, motions, ids, more };
}
