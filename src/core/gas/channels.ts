import { type Bounds } from '#core/flow';
import { type KernelTeam, RECORD_WORDS, type TileGrid } from '#core/grid';
import { type GasFields } from './fields';
import { type GasOptions } from './options';

export type GasChannel = 'density' | 'temperature' | 'vel' | 'fuel' | 'flame' | 'colour' | 'uvw';

const GAS_CHANNELS: readonly GasChannel[] = ['density', 'temperature', 'flame', 'fuel', 'colour', 'uvw', 'vel'];

/** Channels that a run can give. */
export const channelsOf = (options: Pick<GasOptions, 'matter'>): readonly GasChannel[] =>
  GAS_CHANNELS.filter((name) => {
    const { fire, colour, coordinates } = options.matter;
    if (name === 'flame' || name === 'fuel') return fire !== null;
    if (name === 'colour') return colour;
    return name === 'uvw' ? coordinates : true;
  });

/** Less density than this is not written a colour of: nobody sees it, and it would be rounding. */
const CARRIES_FROM = 1e-4;

export interface ChannelRequest {
  readonly names: readonly GasChannel[];
}

/** Active tiles of the requested channels, in file order (z fastest). Solid cells are left out (inactive, background). */
export function collectChannels(
  team: KernelTeam,
  bounds: Bounds<GasFields>,
  fields: GasFields,
  options: GasOptions,
  request: ChannelRequest,
): TileGrid[] {
  const level = bounds.hierarchy.finest;
  const { window: w, size } = bounds;
  const records = team.words(level.records, level.count * RECORD_WORDS);
  const status = team.bytes(level.status, size);
  const origins = new Int32Array(level.count * 3);
  for (let t = 0; t < level.count; t++) {
    const r = t * RECORD_WORDS;
    origins[3 * t] = (records[r + 1] ?? 0) + w.ox;
    origins[3 * t + 1] = (records[r + 2] ?? 0) + w.oy;
    origins[3 * t + 2] = (records[r + 3] ?? 0) + w.oz;
  }
  /** Where the voxels of a tile's row along z begin in a field. */
  const rowAt = (tile: number, row: number): number => (records[tile * RECORD_WORDS] ?? 0) + (row & 7) * level.sx + (row >> 3);
  const scalar = (name: GasChannel, pointer: number, background: number, threshold: number): TileGrid => {
    const field = team.floats(pointer, size);
    const values = new Float32Array(level.count * 512);
    if (background !== 0) values.fill(background);
    const masks = new Uint8Array(level.count * 64);
    for (let t = 0; t < level.count; t++) {
      for (let row = 0; row < 64; row++) {
        let at = rowAt(t, row);
        let mask = 0;
        for (let z = 0; z < 8; z++, at += level.sp) {
          if (status[at] !== 1) continue;
          const v = field[at] ?? 0;
          if (Math.abs(v - background) <= threshold) continue;
          values[t * 512 + row * 8 + z] = v;
          mask |= 1 << z;
        }
        masks[t * 64 + row] = mask;
      }
    }
    return { name, components: 1, background: [background], origins, values, masks };
  };
  const velocity = (): TileGrid => {
    const [u, v, q] = [team.floats(fields.u, size), team.floats(fields.v, size), team.floats(fields.w, size)];
    const values = new Float32Array(level.count * 1536);
    const masks = new Uint8Array(level.count * 64);
    const { wind } = bounds;
    const [wx, wy, wz] = wind;
    for (let t = 0; t < level.count; t++) {
      for (let row = 0; row < 64; row++) {
        let at = rowAt(t, row);
        let mask = 0;
        let o = (t * 512 + row * 8) * 3;
        for (let z = 0; z < 8; z++, at += level.sp, o += 3) {
          const fluid = status[at] === 1;
          values[o] = fluid ? 0.5 * ((u[at] ?? 0) + (u[at + 1] ?? 0)) : wx;
          values[o + 1] = fluid ? 0.5 * ((v[at] ?? 0) + (v[at + level.sx] ?? 0)) : wy;
          values[o + 2] = fluid ? 0.5 * ((q[at] ?? 0) + (q[at + level.sp] ?? 0)) : wz;
          if (fluid) mask |= 1 << z;
        }
        masks[t * 64 + row] = mask;
      }
    }
    return { name: 'vel', components: 3, background: [...wind], origins, values, masks };
  };
  /** The mean of what rides on the density: 0 to 1 each, whatever a correction of the transport made of it. */
  const carried = (name: GasChannel, pointers: readonly [number, number, number]): TileGrid => {
    const density = team.floats(fields.density, size);
    const parts = pointers.map((p) => team.floats(p, size));
    const values = new Float32Array(level.count * 1536);
    const masks = new Uint8Array(level.count * 64);
    for (let t = 0; t < level.count; t++) {
      for (let row = 0; row < 64; row++) {
        let at = rowAt(t, row);
        let mask = 0;
        let o = (t * 512 + row * 8) * 3;
        for (let z = 0; z < 8; z++, at += level.sp, o += 3) {
          const d = density[at] ?? 0;
          if (status[at] !== 1 || d < CARRIES_FROM) continue;
          for (let c = 0; c < 3; c++) values[o + c] = Math.min(1, Math.max(0, (parts[c]?.[at] ?? 0) / d));
          mask |= 1 << z;
        }
        masks[t * 64 + row] = mask;
      }
    }
    return { name, components: 3, background: [0, 0, 0], origins, values, masks };
  };
  return request.names.map((name) => {
    switch (name) {
      case 'density':
        return scalar('density', fields.density, 0, 0);
      case 'temperature':
        return scalar('temperature', fields.temperature, options.matter.ambient, 0.05);
      case 'fuel':
        return scalar('fuel', fields.fuel, 0, 1e-5);
      case 'flame':
        return scalar('flame', fields.flame, 0, 1e-4);
      case 'colour':
        return carried('colour', [fields.red, fields.green, fields.blue]);
      case 'uvw':
        return carried('uvw', [fields.across, fields.up, fields.along]);
      case 'vel':
        return velocity();
    }
  });
}
