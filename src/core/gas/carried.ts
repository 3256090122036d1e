import { type AdvectionContext, type AdvectionScheme } from '#core/flow';
import { type Box3, type Shape, unitPlace } from '#core/geometry';
import type { KernelTeam, Level } from '#core/grid';
import type { Vec3 } from '#core/math';
import { COLOUR_NAMES, COORDINATE_NAMES, type GasFields } from './fields';

/**
 * Vectors that matter carries along: the colour of its source, and the place in its source's box where it came from (texture coordinates). Fields hold
 * density x vector: where two smokes mix, the mixture has the mean by their densities, and an edge has the colour of its matter however thin it is.
 * Carried as they are, edges would take on whatever stands in the empty voxels beside.
 */
export type Carried = readonly [number, number, number];

/** The fields of each vector that is carried, as they lie in memory now. */
export const carriedFields = (fields: GasFields): Carried[] =>
  [COLOUR_NAMES, COORDINATE_NAMES].map((names) => names.map((name) => fields[name]) as unknown as Carried).filter(([first]) => first !== 0);

/** One after the other, three scalars at a time. */
export function advectCarried(context: AdvectionContext<GasFields>, scheme: AdvectionScheme): void {
  const { team, level, fields } = context;
  for (const vector of carriedFields(fields)) {
    scheme.scalars(context, vector);
    for (const field of vector) team.launch('clearOpenCells', level.count, level.context, field, 0);
  }
}

/** Where the density has been changed without bringing any, what rides on it changes in the same part. `before`: the density then. */
export function followDensity(team: KernelTeam, level: Level, fields: GasFields, before: number): void {
  for (const field of carriedFields(fields).flat()) {
    team.launch('followCells', level.count, level.context, before, fields.density, field);
  }
}

/** What a source's density is like: fills `into` with the vectors of a place, in the order of carriedFields. */
export type Dye = (x: number, y: number, z: number, into: Float64Array) => void;

export function dyeOf(fields: GasFields, colour: Vec3, shape: Shape, box: Box3): Dye | null {
  const [coloured, placed] = [fields.red !== 0, fields.across !== 0];
  if (!coloured && !placed) return null;
  const place = placed ? unitPlace(shape, box) : null;
  return (x, y, z, into) => {
    let n = 0;
    if (coloured) for (const part of colour) into[n++] = part;
    if (place) for (const part of place(x, y, z)) into[n++] = part;
  };
}
