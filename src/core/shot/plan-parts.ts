import type { FlowOptions, Solid } from '#core/flow';
import type { Shape } from '#core/geometry';
import { type SolveSettings, isLiquid } from './solve';
import type { ShotFields } from './shot';
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
export const solidsOf = (solve: SolveSettings, voxelFactor: number): Solid[] =>
  solve.solids
    .filter((s) => !s.hidden)
    .map(({ widen, name: _name, hidden: _hidden, ...solid }) => ({
      ...solid,
      ...widened({ ...solid, widen }, solve.detail.voxelSize * voxelFactor, isLiquid(solve)),
      shape: nameless(solid.shape),
      voxelSize: solid.voxelSize === null ? null : solid.voxelSize * voxelFactor,
    }));

/** Frames, in the solver's own seconds (fewer of them in a frame make everything slower), and substeps. */
export const timesOf = (
  shot: ShotFields,
  { stepping }: SolveSettings,
): Pick<FlowOptions, 'framesPerSecond' | 'timeScale' | 'firstFrame' | 'lastFrame' | 'preRoll' | 'firstFrameSolved' | 'stepping'> => ({
  framesPerSecond: shot.framesPerSecond / shot.timeScale,
  timeScale: shot.timeScale,
  firstFrame: shot.firstFrame,
  lastFrame: shot.lastFrame,
  preRoll: shot.preRoll,
  firstFrameSolved: stepping.firstFrameSolved,
  stepping: {
    cfl: stepping.cfl,
    minimum: stepping.minSubsteps,
    maximum: stepping.maxSubsteps,
    tolerance: stepping.tolerance,
    iterations: stepping.iterations,
  },
});

/** The forces of the list that are on. */
export const fieldsOf = ({ forces }: SolveSettings): FlowOptions['forces']['fields'] =>
  forces.fields
    .filter((f) => !f.hidden)
    .map(({ name: _name, hidden: _hidden, ...field }) => ({ ...field, shape: field.shape && nameless(field.shape) }));

interface Imports {
  readonly shape: Shape | null;
  readonly mask?: { readonly picture: string } | null;
}

/** Of imported geometry, each once. */
export const fingerprints = (items: readonly Imports[]): string[] => [
  ...new Set(items.flatMap(({ shape, mask }) => [...(shape?.kind === 'mesh' ? [shape.geometry] : []), ...(mask ? [mask.picture] : [])])),
];
