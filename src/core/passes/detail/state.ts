import { RuddleError } from '#core/errors';
import { type Window, windowOf } from '#core/grid';
import type { Lattice } from '../upscale';
import type { Phases } from './places';

/** A detail pass between two frames. What it reads of the base is read again. */
export interface DetailState {
  readonly frame: number;
  readonly window: Window;
  readonly tiles: Int32Array;
  readonly lattice: Lattice;
  readonly layers: readonly [Float32Array, Float32Array];
  readonly phases: Phases;
  readonly steps: number;
  readonly renewedAt: number | null;
  readonly life: number | null;
  /** Of each amount, the voxels of the active tiles, row by row. */
  readonly values: readonly Float32Array[];
}

const MAGIC = 0x54534452;
const HEAD = 8;

interface Header extends Omit<DetailState, 'window' | 'tiles' | 'layers' | 'values'> {
  readonly window: readonly number[];
  readonly lengths: readonly number[];
}

/** "RDST", the header's length (u32), the header as JSON, then tiles (i32), both layers and the values (f32), little-endian. */
export function writeState({ window: w, tiles, layers, values, ...rest }: DetailState): Uint8Array<ArrayBuffer> {
  const arrays = [tiles, ...layers, ...values];
  const header: Header = { ...rest, window: [w.ox, w.oy, w.oz, w.nx, w.ny, w.nz], lengths: arrays.map((a) => a.length) };
  const head = Uint8Array.from(JSON.stringify(header), (c) => c.charCodeAt(0));
  const out = new Uint8Array(HEAD + head.length + 4 * arrays.reduce((n, a) => n + a.length, 0));
  const view = new DataView(out.buffer);
  view.setUint32(0, MAGIC, true);
  view.setUint32(4, head.length, true);
  out.set(head, HEAD);
  let at = HEAD + head.length;
  for (const a of arrays) {
    out.set(new Uint8Array(a.buffer, a.byteOffset, a.byteLength), at);
    at += a.byteLength;
  }
  return out;
}

/** Throws `file-invalid` for anything else. */
export function readState(bytes: Uint8Array): DetailState {
  const broken = (reason: string): RuddleError<'file-invalid'> =>
    new RuddleError('file-invalid', `A run's state cannot be used: ${reason}.`, { file: 'state', reason });
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < HEAD || view.getUint32(0, true) !== MAGIC) throw broken('it is none');
  let at = HEAD + view.getUint32(4, true);
  let header: Header;
  try {
    header = JSON.parse(String.fromCharCode(...bytes.subarray(HEAD, at))) as Header;
  } catch {
    throw broken('its header cannot be read');
  }
  const { window, lengths, ...rest } = header;
  if (bytes.length !== at + 4 * lengths.reduce((n, v) => n + v, 0)) throw broken('it has another length than it says');
  const [tiles = 0, ...others] = lengths;
  const take = (n: number): ArrayBuffer => {
    const part = bytes.slice(at, at + 4 * n);
    at += 4 * n;
    return part.buffer;
  };
  const first = new Int32Array(take(tiles));
  const [a = new Float32Array(0), b = new Float32Array(0), ...values] = others.map((n) => new Float32Array(take(n)));
  const [ox = 0, oy = 0, oz = 0, nx = 0, ny = 0, nz = 0] = window;
  return { ...rest, window: windowOf([ox, oy, oz], [ox + nx, oy + ny, oz + nz]), tiles: first, layers: [a, b], values };
}
