import { type BasePart, type Lattice, fillChannel, pointsOf } from './lattice';

/** What of a gas is carried, as solvers hold it. */
export type Amount = 'density' | 'temperature' | 'flame' | 'fuel' | 'red' | 'green' | 'blue' | 'across' | 'up' | 'along';

/** What is carried, and where the base has it: a channel, which component of it, and whether it rides on the density. */
export interface CarriedAmount {
  readonly name: Amount;
  readonly channel: string;
  readonly component: number;
  readonly rides: boolean;
  /** What it holds where nothing is. */
  readonly nothing: number;
}

const scalar = (name: Amount): Omit<CarriedAmount, 'nothing'> => ({ name, channel: name, component: 0, rides: false });
const riding = (channel: string, names: readonly Amount[]): Omit<CarriedAmount, 'nothing'>[] =>
  names.map((name, component) => ({ name, channel, component, rides: true }));

/** All that could be carried. */
const ALL = [
  ...(['density', 'temperature', 'flame', 'fuel'] as const).map(scalar),
  ...riding('colour', ['red', 'green', 'blue']),
  ...riding('uvw', ['across', 'up', 'along']),
];

/** What of a frame is carried: the channels that are kept and that it has; density always, as others ride on it and it says where matter is. */
export function amountsOf(parts: readonly BasePart[], kept: readonly string[]): CarriedAmount[] {
  const grids = parts.flatMap((p) => p.grids);
  return ALL.filter(({ channel }) => (channel === 'density' || kept.includes(channel)) && grids.some((g) => g.name === channel)).map(
    (a) => ({
      ...a,
      nothing: a.rides ? 0 : (grids.find((g) => g.name === a.channel)?.background[0] ?? 0),
    }),
  );
}

export const AMOUNT_NAMES = ALL.map((a) => a.name);

/** Amounts of a frame over its lattice, above what they hold where nothing is; what rides on the density as amounts. */
export function loadAmounts(
  amounts: readonly CarriedAmount[],
  lattice: Lattice,
  parts: readonly BasePart[],
  voxelSize: number,
): Float32Array[] {
  const points = pointsOf(lattice);
  const grids = parts.flatMap((p) => p.grids);
  const density = new Float32Array(points);
  return amounts.map(({ channel, component, rides, nothing }) => {
    const c = grids.find((g) => g.name === channel)?.components ?? 1;
    const all = new Float32Array(c * points);
    fillChannel(all, lattice, parts, channel, voxelSize);
    const out = channel === 'density' ? density : new Float32Array(points);
    for (let n = 0; n < points; n++) {
      const v = (all[c * n + component] as number) - nothing;
      out[n] = rides ? v * (density[n] as number) : v;
    }
    return out;
  });
}
