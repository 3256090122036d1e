import { describe, expect, it } from 'vitest';
import { type LiquidPlan, type LiquidSolve, isLiquidPlan, liquidSolveSchema, resolvePlan, shotFieldsSchema } from '#core/shot';
import { runLiquid, withTeam } from '#testing';
import { type LiquidCostRun, expectedParticles, fitLiquid, liquidCostFrame, predictLiquid } from './liquid';

const shot = shotFieldsSchema.parse({ name: 'Tank', lastFrame: 14 });
const sheet = (voxelSize: number, changes: object = {}): LiquidSolve =>
  liquidSolveSchema.parse({
    detail: { voxelSize },
    bounds: { limit: { min: [0, 0, 0], max: [2, 1.5, 1] } },
    sources: [{ name: 'Column', shape: { kind: 'box', centre: [0.4, 0.5, 0.5], size: [0.8, 1, 1] } }],
    ...changes,
  });
function planOf(settings: LiquidSolve): LiquidPlan {
  const plan = resolvePlan(shot, settings, 'final');
  if (!isLiquidPlan(plan)) throw new Error('no liquid');
  return plan;
}
const BYTES = 44;

/** What the solver itself makes of it; times are those of a machine with known laws. */
async function ran(settings: LiquidSolve, { slow = 1, title = 'run 1' } = {}): Promise<LiquidCostRun> {
  const plan = planOf(settings);
  const frames = await withTeam(1, (team) =>
    runLiquid(team, plan.options).map(({ report }) => ({
      ...liquidCostFrame(report, report.particles * BYTES),
      seconds: {
        ...report.seconds,
        sources: 0,
        sorting: 0,
        transfer: 0,
        surface: 0,
        forces: 0,
        viscosity: 0,
        pressure: 2e-7 * report.activeVoxels * report.substepsUsed * slow,
        volume: 0,
        moving: 6e-7 * report.particles * report.substepsUsed * slow,
        writing: 0,
      },
      calibration: 0.01 * slow,
    })),
  );
  return { id: title, title, origin: 'server', threads: 1, plan, frames };
}
const seconds = (run: LiquidCostRun): number => run.frames.reduce((n, f) => n + f.seconds.pressure + f.seconds.moving, 0);
const peak = (run: LiquidCostRun, of: 'particles' | 'voxels' | 'memoryBytes'): number => Math.max(...run.frames.map((f) => f[of]));
const off = (a: number, b: number): number => Math.abs(Math.log(a / b));

describe('what a liquid will cost', () => {
  it('from its settings alone: the particles exactly enough to be asked about, everything with a range', async () => {
    const settings = sheet(0.08);
    const run = await ran(settings);
    const told = predictLiquid(run.plan, [], null, []);
    expect(told.basis).toBe('settings');
    expect(off(told.particles!.likely, peak(run, 'particles'))).toBeLessThan(0.1);
    expect(off(told.voxels.likely, peak(run, 'voxels'))).toBeLessThan(0.7);
    for (const range of [told.time!, told.memory, told.disk, told.voxels]) expect(range.high).toBeGreaterThan(1.2 * range.low);
    expect(told.frames).toHaveLength(14);
    // 27 in a voxel instead of 8.
    const fine = planOf(sheet(0.08, { detail: { voxelSize: 0.08, particles: 3 } }));
    expect(expectedParticles(fine) / expectedParticles(run.plan)).toBeCloseTo(27 / 8, 3);
  });

  it('of a stream the particles come frame by frame, and never more than the limit box holds', () => {
    const pour = { name: 'Pour', act: 'emits', shape: { kind: 'box', centre: [1, 1.2, 0.5], size: [0.2, 0.2, 0.2] }, velocity: [0, -2, 0] };
    const told = predictLiquid(planOf(sheet(0.05, { sources: [pour] })), [], null, []);
    // A section of 0.04 square metres at 2 m/s.
    const each = 8 / 0.05 ** 3;
    const gained = (told.frames[12]!.particles! - told.frames[1]!.particles!) / 11 / each;
    expect(gained).toBeCloseTo((0.04 * 2) / 24, 4);
    const flood = { ...pour, volumeRate: 1000 };
    const full = predictLiquid(planOf(sheet(0.05, { sources: [flood] })), [], null, []);
    expect(full.particles!.likely).toBeLessThan(1.001 * 3 * each);
  });

  it('from a coarser run of the same: particles, voxels, memory, time of the finer one', async () => {
    const coarse = await ran(sheet(0.1));
    const fine = await ran(sheet(0.05), { title: 'run 2' });
    const model = fitLiquid([coarse, await ran(sheet(0.07), { title: 'run 3' })], 1)!;
    const told = predictLiquid(fine.plan, [coarse], model, []);
    expect([told.basis, told.from]).toEqual(['same', 'run 1']);
    expect(off(told.particles!.likely, peak(fine, 'particles'))).toBeLessThan(0.1);
    expect(off(told.voxels.likely, peak(fine, 'voxels'))).toBeLessThan(0.3);
    expect(off(told.memory.likely, peak(fine, 'memoryBytes'))).toBeLessThan(0.25);
    expect(off(told.time!.likely, seconds(fine))).toBeLessThan(0.4);
  });

  it('from a coarser run with fewer particles inside: how many the finer one has', async () => {
    const pool = (voxelSize: number): LiquidSolve =>
      sheet(voxelSize, {
        detail: { voxelSize, band: 3 },
        bounds: { limit: { min: [0, 0, 0], max: [1.6, 1.6, 1.6] } },
        sources: [{ name: 'Pool', shape: { kind: 'box', centre: [0.8, 0.5, 0.8], size: [1.6, 1, 1.6] } }],
      });
    const [coarse, fine] = [await ran(pool(0.08)), await ran(pool(0.05))];
    const told = predictLiquid(fine.plan, [coarse], null, []);
    expect(off(told.particles!.likely, peak(fine, 'particles'))).toBeLessThan(0.12);
    // Without a run: as of a compact body.
    expect(off(predictLiquid(fine.plan, [], null, []).particles!.likely, peak(fine, 'particles'))).toBeLessThan(0.35);
  });

  it('of the very same run again it is what that took, on a machine that is twice as slow today too', async () => {
    const run = await ran(sheet(0.08));
    const slow = await ran(sheet(0.08), { slow: 2 });
    const model = fitLiquid([run], 1)!;
    const told = predictLiquid(run.plan, [run], model, []);
    expect(told.basis).toBe('repeat');
    expect(off(told.time!.likely, seconds(run))).toBeLessThan(0.1);
    expect(off(told.voxels.likely, peak(run, 'voxels'))).toBeLessThan(0.02);
    // Calibrated: the slow day taught the same.
    expect(off(predictLiquid(run.plan, [run], fitLiquid([slow], 1), []).time!.likely, seconds(slow))).toBeLessThan(0.1);
  });

  it('learns from no browser, no other number of threads, and not from next to nothing', async () => {
    const run = await ran(sheet(0.1));
    expect(fitLiquid([{ ...run, origin: 'browser' }], 1)).toBeNull();
    expect(fitLiquid([run], 2)).toBeNull();
    expect(fitLiquid([{ ...run, frames: run.frames.slice(0, 6) }], 1)).toBeNull();
    expect(fitLiquid([run], 1)).not.toBeNull();
  });
});
