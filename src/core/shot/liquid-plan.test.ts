import { describe, expect, it } from 'vitest';
import {
  type LiquidSolve,
  blankSettings,
  isLiquid,
  isLiquidPlan,
  liquidSolveSchema,
  readStoredPlan,
  resolvePlan,
  shotFieldsSchema,
  solveOf,
  storedText,
} from '.';

const shot = shotFieldsSchema.parse({ name: 'Tank', lastFrame: 24, timeScale: 0.5 });
const sheet = (changes: object = {}): LiquidSolve =>
  liquidSolveSchema.parse({
    sources: [
      { name: 'Pool', shape: { kind: 'box', centre: [0, 0.5, 0], size: [2, 1, 1] } },
      { name: 'Off', hidden: true, shape: { kind: 'ball', centre: [0, 5, 0], radius: 1 } },
    ],
    ...changes,
  });

describe('a plan of a liquid', () => {
  it('takes the rung into the voxel size and nothing else of the world', () => {
    const [final, test] = (['final', 'test'] as const).map((rung) => resolvePlan(shot, sheet(), rung));
    if (!isLiquidPlan(final!) || !isLiquidPlan(test!)) throw new Error('no liquid');
    expect(test.options.voxelSize).toBeCloseTo(2 * final.options.voxelSize, 9);
    expect({ ...test.options, voxelSize: 0, solids: [] }).toEqual({ ...final.options, voxelSize: 0, solids: [] });
  });

  it('has only what is on, the limit box around it, and what is to be written', () => {
    const plan = resolvePlan(shot, sheet({ keep: { viscosity: true, radius: false } }), 'final');
    if (!isLiquidPlan(plan)) throw new Error('no liquid');
    expect(plan.options.sources.map((s) => s.name)).toEqual(['Pool']);
    expect(plan.keep.attributes).toEqual(['viscosity']);
    expect(plan.options.framesPerSecond).toBe(shot.framesPerSecond / 0.5);
    const { min, max } = plan.options.bounds.limit;
    expect(min[0]).toBeLessThanOrEqual(-1);
    expect(max[0]).toBeGreaterThanOrEqual(1);
    // What is hidden widens nothing.
    expect(max[1]).toBeLessThan(5);
  });

  it('is read again as it was stored', () => {
    const plan = resolvePlan(shot, sheet(), 'final');
    expect(readStoredPlan(storedText(plan))).toEqual(plan);
  });

  it.each([
    [{ detail: { voxelSize: 0 } }, /voxelSize/],
    [{ detail: { particles: 5 } }, /particles/],
    [{ matter: { viscosity: Infinity } }, /viscosity/],
    [{ matter: { viscosity: 101 } }, /viscosity/],
    [{ matter: { volumeTime: 0 } }, /volumeTime/],
    [{ bounds: { limit: { min: [0, 0, 0], max: [0, 1, 1] } } }, /limit/],
    [{ sources: [{ shape: { kind: 'ball', centre: [0, 0, 0], radius: 1 }, act: 'explodes' }] }, /act/],
    [{ tension: 1 }, /tension/],
  ])('%o is refused where it is wrong', (wrong, where) => {
    const read = liquidSolveSchema.safeParse({ ...sheet(), ...wrong });
    expect(read.success).toBe(false);
    expect(JSON.stringify(read.error?.issues)).toMatch(where);
  });

  it('an empty shot of it is a liquid that can be resolved', () => {
    const solve = solveOf(blankSettings('liquid'));
    expect(isLiquid(solve)).toBe(true);
    expect(resolvePlan(shot, solve, 'final')).toMatchObject({ pass: 'liquid', options: { sources: [] } });
  });

  it('widens a solid that is thinner than two voxels, unless it is told not to', () => {
    const offsetOf = (widen?: string): number => {
      const solve = liquidSolveSchema.parse({
        detail: { voxelSize: 0.1 },
        solids: [{ name: 'Plate', shape: { kind: 'box', centre: [0, 0, 0], size: [2, 0.05, 2] }, ...(widen ? { widen } : {}) }],
      });
      return resolvePlan(shotFieldsSchema.parse({ name: 'Yard' }), solve, 'final').options.solids[0]!.offset;
    };
    expect(offsetOf()).toBeCloseTo((0.2 - 0.05) / 0.1 / 2, 12);
    expect(offsetOf('never')).toBe(0);
  });
});
