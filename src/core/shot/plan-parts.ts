import type { Solid } from '#core/flow';
import type { Shape } from '#core/geometry';
import type { SolveSettings } from './solve';
import type { ShapeSettings } from './solve-settings';
import { widened } from './widths';

// Parts of plans that solves of every kind have alike.

/** What a file was called changes no result. */
export function nameless(shape: ShapeSettings): Shape {
  if (shape.kind !== 'mesh') return shape;
  const { file: _file, content: _content, ...rest } = shape;
  return rest;
}

/** The solids that stand in a solve. */
export const solidsOf = ({ solids, detail }: SolveSettings, voxelFactor: number): Solid[] =>
  solids
    .filter((s) => !s.hidden)
    .map(({ widen, name: _name, hidden: _hidden, ...solid }) => ({
      ...solid,
      ...widened({ ...solid, widen }, detail.voxelSize * voxelFactor),
      shape: nameless(solid.shape),
      voxelSize: solid.voxelSize === null ? null : solid.voxelSize * voxelFactor,
    }));

interface Imports {
  readonly shape: Shape | null;
  readonly mask?: { readonly picture: string } | null;
}

/** Of imported geometry, each once. */
export const fingerprints = (items: readonly Imports[]): string[] => [
  ...new Set(items.flatMap(({ shape, mask }) => [...(shape?.kind === 'mesh' ? [shape.geometry] : []), ...(mask ? [mask.picture] : [])])),
];
