import { type Bounds, Collector } from '#core/flow';
import { type KernelTeam, type TileGrid } from '#core/grid';
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

/** Active tiles of the requested channels. */
export function collectChannels(
  team: KernelTeam,
  bounds: Bounds<GasFields>,
  fields: GasFields,
  options: GasOptions,
  request: ChannelRequest,
): TileGrid[] {
  const tiles = new Collector(team, bounds);
  return request.names.map((name) => {
    switch (name) {
      case 'density':
        return tiles.scalar('density', fields.density, 0, 0);
      case 'temperature':
        return tiles.scalar('temperature', fields.temperature, options.matter.ambient, 0.05);
      case 'fuel':
        return tiles.scalar('fuel', fields.fuel, 0, 1e-5);
      case 'flame':
        return tiles.scalar('flame', fields.flame, 0, 1e-4);
      case 'colour':
        return tiles.carried('colour', fields.density, [fields.red, fields.green, fields.blue], CARRIES_FROM);
      case 'uvw':
        return tiles.carried('uvw', fields.density, [fields.across, fields.up, fields.along], CARRIES_FROM);
      case 'vel':
        return tiles.velocity(fields);
    }
  });
}
