import { type Bounds, SCRATCH } from '#core/flow';
import { RuddleError } from '#core/errors';
import { type KernelTeam, type Window, windowOf } from '#core/grid';
import { type FieldName, type GasFields, fieldNames } from './fields';
import { type GasOptions } from './options';

/**
 * The state of a run between two frames: a run that begins with it computes the frames after it to the bit as if it had never been interrupted. What is
 * derived from it (edge faces, cut blocks, pockets, covers) is not in it.
 *
 * Layout: "RGST", the header's length (u32), the header as JSON, then little-endian and without padding: tiles (i32), trails (f64 key, f64 mark), and each
 * field of the window: one bit for each run of 16 floats, set where one of them is not ambient, then the floats of those runs.
 */
export interface GasSnapshot {
  readonly version: string;
  readonly voxelSize: number;
  readonly frame: number;
  readonly window: readonly [number, number, number, number, number, number];
  /** Of the last substep, seconds; 0: there was none. */
  readonly lastStep: number;
  /** The middle of it; null: there was none. */
  readonly stepTime: number | null;
  /** When and for how long bounds and solids were last placed. */
  readonly placed: readonly [number, number];
  readonly tiles: Int32Array;
  /** Of each source, what is left of contact: key, mark, key, mark ... */
  readonly trails: readonly Float64Array[];
  /** Sets a window's field from it. */
  readonly fill: (name: FieldName, into: Int32Array, ambient: number) => void;
}

const MAGIC = 0x54534752;
const RUN = 16;
const HEAD = 8;

interface Header {
  readonly version: string;
  readonly voxelSize: number;
  readonly frame: number;
  readonly window: GasSnapshot['window'];
  readonly lastStep: number;
  readonly stepTime: number | null;
  readonly placed: readonly [number, number];
  readonly tiles: number;
  readonly trails: readonly number[];
  /** Bytes of each field. */
  readonly fields: Readonly<Record<string, number>>;
}

const bitsOf = (value: number): number => new Int32Array(Float32Array.of(value).buffer)[0] ?? 0;

/** Fields that hold something between frames. */
const keptFields = (options: GasOptions): FieldName[] =>
  fieldNames(options.matter).filter((name) => !(SCRATCH as readonly string[]).includes(name));

function packField(field: Int32Array, ambient: number): Uint8Array {
  const runs = Math.ceil(field.length / RUN);
  const flags = new Uint8Array(Math.ceil(runs / 8));
  let kept = 0;
  for (let r = 0; r < runs; r++) {
    const end = Math.min(field.length, (r + 1) * RUN);
    for (let n = r * RUN; n < end; n++) {
      if (field[n] === ambient) continue;
      flags[r >> 3] = (flags[r >> 3] ?? 0) | (1 << (r & 7));
      kept += end - r * RUN;
      break;
    }
  }
  const values = new Int32Array(kept);
  let at = 0;
  for (let r = 0; r < runs; r++) {
    if (!((flags[r >> 3] ?? 0) & (1 << (r & 7)))) continue;
    const part = field.subarray(r * RUN, Math.min(field.length, (r + 1) * RUN));
    values.set(part, at);
    at += part.length;
  }
  const out = new Uint8Array(flags.length + values.byteLength);
  out.set(flags);
  out.set(new Uint8Array(values.buffer), flags.length);
  return out;
}

function unpackField(packed: Uint8Array, field: Int32Array, ambient: number): void {
  const runs = Math.ceil(field.length / RUN);
  const flags = packed.subarray(0, Math.ceil(runs / 8));
  // Copied: what comes after the flags need not be aligned.
  const values = new Int32Array(packed.slice(flags.length).buffer);
  field.fill(ambient);
  let at = 0;
  for (let r = 0; r < runs; r++) {
    if (!((flags[r >> 3] ?? 0) & (1 << (r & 7)))) continue;
    const length = Math.min(field.length, (r + 1) * RUN) - r * RUN;
    field.set(values.subarray(at, at + length), r * RUN);
    at += length;
  }
  if (at !== values.length) throw broken('its fields have another size');
}

const broken = (why: string): RuddleError<'file-invalid'> =>
  new RuddleError('file-invalid', `A run's state cannot be used: ${why}.`, { file: 'state', reason: why });

/** What a run knows beside its fields. */
interface Told {
  readonly frame: number;
  readonly lastStep: number;
  readonly stepTime: number | null;
  readonly placed: readonly [number, number];
  readonly trails: readonly (ReadonlyMap<number, number> | null)[];
}

export function writeSnapshot(
  version: string,
  team: KernelTeam,
  options: GasOptions,
  bounds: Bounds<GasFields>,
  fields: Readonly<GasFields>,
  told: Told,
): Uint8Array<ArrayBuffer> {
  const { window: w, size } = bounds;
  const packed = keptFields(options).map(
    (name) => [name, packField(team.words(fields[name], size), bitsOf(bounds.ambientOf(name)))] as const,
  );
  const trails = told.trails.map((trail) => Float64Array.from([...(trail ?? [])].flat()));
  const header: Header = {
    version,
    voxelSize: options.voxelSize,
    frame: told.frame,
    window: [w.ox, w.oy, w.oz, w.nx, w.ny, w.nz],
    lastStep: told.lastStep,
    stepTime: told.stepTime,
    placed: told.placed,
    tiles: bounds.active.tiles.length,
    trails: trails.map((t) => t.length),
    fields: Object.fromEntries(packed.map(([name, bytes]) => [name, bytes.length])),
  };
  const head = Uint8Array.from(JSON.stringify(header), (c) => c.charCodeAt(0));
  const { tiles } = bounds.active;
  const parts = [
    head,
    new Uint8Array(tiles.buffer, tiles.byteOffset, tiles.byteLength),
    ...trails.map((t) => new Uint8Array(t.buffer)),
    ...packed.map(([, bytes]) => bytes),
  ];
  const out = new Uint8Array(parts.reduce((n, p) => n + p.length, HEAD));
  new DataView(out.buffer).setUint32(0, MAGIC, true);
  new DataView(out.buffer).setUint32(4, head.length, true);
  let at = HEAD;
  for (const p of parts) {
    out.set(p, at);
    at += p.length;
  }
  return out;
}

/** Reads a state that a run of the same options wrote. Throws `file-invalid` for any other. */
export function readSnapshot(bytes: Uint8Array, version: string, options: GasOptions): GasSnapshot {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < HEAD || view.getUint32(0, true) !== MAGIC) throw broken('it is none');
  let at = HEAD + view.getUint32(4, true);
  let header: Header;
  try {
    header = JSON.parse(String.fromCharCode(...bytes.subarray(HEAD, at))) as Header;
  } catch {
    throw broken('its header cannot be read');
  }
  if (header.version !== version) throw broken(`it is of ${header.version}, this is ${version}`);
  const names = keptFields(options);
  if (header.voxelSize !== options.voxelSize || names.join() !== Object.keys(header.fields).join()) throw broken('it is of other settings');
  const take = (length: number): Uint8Array => {
    const part = bytes.slice(at, at + length);
    if (part.length !== length) throw broken('it ends early');
    at += length;
    return part;
  };
  const tiles = new Int32Array(take(header.tiles * 4).buffer);
  const trails = header.trails.map((n) => new Float64Array(take(n * 8).buffer));
  const packed = new Map(Object.entries(header.fields).map(([name, length]) => [name, take(length)]));
  if (at !== bytes.length) throw broken('it is longer than it says');
  return {
    ...header,
    tiles,
    trails,
    fill: (name, into, ambient) => {
      unpackField(packed.get(name) ?? new Uint8Array(0), into, bitsOf(ambient));
    },
  };
}

export const windowOfSnapshot = ({ window: [ox, oy, oz, nx, ny, nz] }: GasSnapshot): Window =>
  windowOf([ox, oy, oz], [ox + nx, oy + ny, oz + nz]);

/** Puts a snapshot's fields into a window that has just been made ambient. */
export function fillFields(
  snapshot: GasSnapshot,
  team: KernelTeam,
  options: GasOptions,
  bounds: Bounds<GasFields>,
  fields: Readonly<GasFields>,
): void {
  for (const name of keptFields(options)) snapshot.fill(name, team.words(fields[name], bounds.size), bounds.ambientOf(name));
}
