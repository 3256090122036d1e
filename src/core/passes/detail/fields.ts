import type { Contents, FlowFields } from '#core/flow';
import type { KernelTeam } from '#core/grid';
import type { BasePart } from './lattice';

/** Fields of the fine grid: those of a flow, a third field of the potential (with phi and p), and what is carried. 0: it is not there. */
export interface DetailFields extends FlowFields {
  e: number;
  density: number;
  temperature: number;
  flame: number;
  fuel: number;
  red: number;
  green: number;
  blue: number;
  across: number;
  up: number;
  along: number;
}

export type Amount = Exclude<keyof DetailFields, keyof FlowFields | 'e'>;

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

const FLOW = ['u', 'v', 'w', 'phi', 'a', 'b', 'c', 'r', 'z', 'p', 'q', 'e'] as const;

/** Fields that a fine grid holds in all. */
export const fieldCount = (amounts: number): number => FLOW.length + amounts;

export function allocateDetail(
  team: KernelTeam,
  capacity: number,
  amounts: readonly CarriedAmount[],
): { readonly fields: DetailFields; readonly contents: Contents<DetailFields> } {
  const names = [...FLOW, ...amounts.map((a) => a.name)];
  const fields = Object.fromEntries(
    ([...FLOW, ...ALL.map((a) => a.name)] as const).map((name) => [
      name,
      (names as string[]).includes(name) ? team.allocate(4 * capacity) : 0,
    ]),
  ) as unknown as DetailFields;
  return {
    fields,
    contents: {
      names,
      ambient: Object.fromEntries(amounts.map((a) => [a.name, a.nothing])),
      counted: amounts.slice(0, 1).map((a) => a.name),
      riding: amounts.slice(1).map((a) => a.name),
    },
  };
}
