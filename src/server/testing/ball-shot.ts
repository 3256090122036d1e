import { type ShotFile, SHOT_VERSION, type SolveInput, parseWith, shotFileSchema } from '#core/shot';
import { settingsOf } from '#testing/values';

/** A shot of one variant: a ball that gives smoke, in a box of 3.2 m on voxels of 0.1 m; a Test of it has 16 voxels a side. */
export const ballShot = (
  {
    lastFrame = 4,
    name = 'Small puff',
    budgets = {},
  }: { readonly lastFrame?: number; readonly name?: string; readonly budgets?: object } = {},
  solve: SolveInput = {},
  passes: Parameters<typeof settingsOf>[1] = [],
): ShotFile => {
  const own: SolveInput = {
    detail: { voxelSize: 0.1 },
    bounds: { limit: { min: [0, 0, 0], max: [3.2, 3.2, 3.2] } },
    sources: [{ name: 'Vent', shape: { kind: 'ball', centre: [1.6, 0.8, 1.6], radius: 0.5 } }],
    ...solve,
  };
  return parseWith(
    shotFileSchema,
    { ruddle: SHOT_VERSION, name, lastFrame, budgets, variants: [{ name: 'One', settings: settingsOf(own, passes) }] },
    'test',
  );
};
