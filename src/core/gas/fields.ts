import { type Contents, type FlowFields, bytesOfWindow } from '#core/flow';
import type { KernelTeam, Window } from '#core/grid';
import type { GasOptions } from './options';

/**
 * The fields of a gas run: 13 arrays, 2 more where something burns, 3 for each vector that is carried along.
 */
export interface GasFields extends FlowFields {
  density: number;
  temperature: number;
  /** Only where something burns, else 0 (no memory): fuel, and the fuel burnt a second. */
  fuel: number;
  flame: number;
  /** Only where they are carried, else 0: density x colour, and density x texture coordinate (carried.ts). */
  red: number;
  green: number;
  blue: number;
  across: number;
  up: number;
  along: number;
}

export const FIELD_NAMES = [
  'u',
  'v',
  'w',
  'density',
  'temperature',
  'phi',
  'a',
  'b',
  'c',
  'r',
  'z',
  'p',
  'q',
] as const satisfies readonly (keyof GasFields)[];
const FIRE_NAMES = ['fuel', 'flame'] as const satisfies readonly (keyof GasFields)[];
export const COLOUR_NAMES = ['red', 'green', 'blue'] as const satisfies readonly (keyof GasFields)[];
export const COORDINATE_NAMES = ['across', 'up', 'along'] as const satisfies readonly (keyof GasFields)[];
const EXTRA_NAMES = [...FIRE_NAMES, ...COLOUR_NAMES, ...COORDINATE_NAMES] as const;
export type FieldName = (typeof FIELD_NAMES)[number] | (typeof EXTRA_NAMES)[number];

/** What of matter decides which fields a run has. */
export type Kept = Pick<GasOptions['matter'], 'fire' | 'colour' | 'coordinates'>;

/** Fields that a run has. */
export const fieldNames = ({ fire, colour, coordinates }: Kept): readonly FieldName[] => [
  ...FIELD_NAMES,
  ...(fire ? FIRE_NAMES : []),
  ...(colour ? COLOUR_NAMES : []),
  ...(coordinates ? COORDINATE_NAMES : []),
];

const RIDING: ReadonlySet<string> = new Set(['fuel', ...COLOUR_NAMES, ...COORDINATE_NAMES]);

/** The same for the bounds: ambient temperature, and density and heat counted. */
export const contentsOf = (matter: Kept & Pick<GasOptions['matter'], 'ambient'>): Contents<GasFields> => ({
  names: fieldNames(matter),
  ambient: { temperature: matter.ambient },
  counted: ['density', 'temperature'],
  // The flame is what burnt in the last substep: it is worked out anew.
  riding: fieldNames(matter).filter((name) => RIDING.has(name)),
});

/** Bytes that a window of this size would touch. */
export const windowBytes = (w: Window, matter: Kept): number => bytesOfWindow(w, fieldNames(matter).length);

export function allocateFields(team: KernelTeam, capacity: number, matter: Kept): GasFields {
  const fields = Object.fromEntries(EXTRA_NAMES.map((name) => [name, 0])) as unknown as GasFields;
  for (const name of fieldNames(matter)) fields[name] = team.allocate(capacity * 4);
  return fields;
}
