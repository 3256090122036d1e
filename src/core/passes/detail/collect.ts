import { Collector } from '#core/flow';
import type { KernelTeam, TileGrid } from '#core/grid';
import type { Detail } from './detail';
import type { Amount } from '../upscale';

/** Differences from where nothing is that are not written: rounding. */
const LEAST: Readonly<Partial<Record<Amount, number>>> = { density: 1e-6, temperature: 0.05, fuel: 1e-5, flame: 1e-4 };
const CARRIES_FROM = 1e-4;

/** The channels that are kept, of the active tiles. */
export function collectDetail(team: KernelTeam, detail: Detail, channels: readonly string[]): TileGrid[] {
  const { bounds, fields, amounts } = detail.grid;
  const tiles = new Collector(team, bounds);
  return channels.flatMap((name): TileGrid[] => {
    if (name === 'vel') return [tiles.velocity(fields)];
    const own = amounts.filter((a) => a.channel === name);
    const [first] = own;
    if (!first) return [];
    if (!first.rides) return [tiles.scalar(name, fields[first.name], first.nothing, LEAST[first.name] ?? 0)];
    const [a = 0, b = 0, c = 0] = own.map((o) => fields[o.name]);
    return [tiles.carried(name, fields.density, [a, b, c], CARRIES_FROM)];
  });
}
