import { describe, expect, it } from 'vitest';
import { type LiquidSolve, applyEdits, isLiquidPlan, liquidSolveSchema, resolvePlan, shotFieldsSchema } from '#core/shot';
import type { LiquidReport } from '#core/liquid';
import { makeLiquidReport } from '#testing/values';
import { type Finding, findAll } from '..';

const shot = shotFieldsSchema.parse({ name: 'Tank', lastFrame: 8, budgets: { time: 100, disk: 1e9, memory: 1e9 } });
const pool = { name: 'Pool', shape: { kind: 'box', centre: [0, 0.5, 0], size: [2, 1, 1] } };

/** A pool in its container, in which nothing is wrong. */
const sheet = (changes: object = {}): LiquidSolve =>
  liquidSolveSchema.parse({
    detail: { voxelSize: 0.05 },
    bounds: { limit: { min: [-1, 0, -0.5], max: [1, 2, 0.5] } },
    sources: [pool],
    ...changes,
  });

function found(settings: LiquidSolve, reports: readonly LiquidReport[] = []): Finding[] {
  const plan = resolvePlan(shot, settings, 'final');
  if (!isLiquidPlan(plan)) throw new Error('no liquid');
  return findAll({ shot, settings, plan, reports, prediction: null, spent: { seconds: 0, bytes: 0 } });
}
/** Eight frames; `of` changes those it speaks of. */
const frames = (of: (frame: number) => Parameters<typeof makeLiquidReport>[0]): LiquidReport[] =>
  Array.from({ length: 8 }, (_v, n) => makeLiquidReport({ frame: n + 1, ...of(n + 1) }));

describe('findings of a liquid', () => {
  it('there are none where nothing is wrong', () => {
    expect(
      found(
        sheet(),
        frames(() => ({})),
      ),
    ).toEqual([]);
  });

  it.each<[string, object, ((frame: number) => Parameters<typeof makeLiquidReport>[0]) | null, RegExp, boolean]>([
    ['no-liquid', { sources: [{ ...pool, hidden: true }] }, null, /There is no liquid/, true],
    ['no-liquid', { sources: [{ ...pool, act: 'drains' }] }, null, /There is no liquid/, false],
    [
      'outside-source:0',
      { sources: [{ ...pool, shape: { ...pool.shape, centre: [9, 0, 0] } }] },
      null,
      /Pool lies outside of the limit box/,
      true,
    ],
    ['still-source:0', { sources: [{ ...pool, act: 'emits' }] }, null, /Pool emits nothing/, true],
    [
      'short-source:0',
      { sources: [{ ...pool, act: 'emits', volumeRate: 0.2 }] },
      (f) => ({ sources: [{ source: 0, asked: 0.2 * f, given: 0.15 * f, held: 'wall' }] }),
      /Pool gave 1.2 m³ of 1.6 m³/,
      false,
    ],
    ['flood:0', { sources: [{ ...pool, act: 'emits', volumeRate: 1e5 }] }, null, /asks for .* particles a frame/, true],
    ['no-particles', {}, () => ({ particles: 0, volume: { start: 0, end: 0 } }), /No source ever gave a particle/, false],
    ['inside-solid', {}, (f) => (f > 4 ? { walls: { inside: f } } : {}), /Up to 8 particles lie inside a solid/, true],
    ['explosive', {}, (f) => (f === 3 ? { fastest: 80 } : {}), /Particles at 80 m\/s shoot away/, true],
    ['volume', {}, (f) => (f > 2 ? { surfaceVolume: 0.93 } : {}), /shrinks by up to 7 %/, true],
    [
      'open-container',
      { bounds: { limit: { min: [-1, 0, -0.5], max: [1, 2, 0.5] }, walls: { floor: 'open' } } },
      (f) => ({ volume: { filled: f === 1 ? 1 : 0, walls: 0.05 } }),
      /40 % of the liquid leaves the limit box/,
      true,
    ],
    ['idle-guide:0', { forces: { fields: [{ kind: 'guide', name: 'Paddle' }] } }, null, /Paddle stands still/, true],
    ['idle-guide:0', { forces: { fields: [{ kind: 'guide', name: 'Paddle', shape: null }] } }, null, /has no shape/, true],
    [
      'holes',
      { detail: { voxelSize: 0.05, particles: 1 } },
      (f) => (f > 2 ? { lie: { empty: 320 } } : {}),
      /Up to 4.0 % of the bulk/,
      true,
    ],
    ['clumps', {}, (f) => (f > 2 ? { lie: { clumps: 1200 } } : {}), /clump in up to 12 % of the liquid/, true],
    ['gap', {}, (f) => (f > 2 ? { lie: { gap: { mean: 0.62, largest: 1.1 } } } : {}), /stay 0.62 voxels away from walls/, true],
    ['viscosity-step', {}, (f) => (f > 6 ? { viscosityConverged: false } : {}), /Viscosity was not solved/, true],
    ['tension-step', { detail: { voxelSize: 0.004 }, matter: { tension: 3 } }, null, /Surface tension needs 32 substeps a frame, 16/, true],
    [
      'thin-band',
      { detail: { voxelSize: 0.05, band: 3 } },
      (f) => (f > 6 ? { cflReached: 3.4 } : {}),
      /3 voxels deep, particles cross 3.4/,
      true,
    ],
    ['unfelt-tension', { matter: { tension: 0.073 } }, null, /is not felt/, true],
    [
      'limit-box',
      { bounds: {} },
      (f) => (f > 6 ? { matterBox: [-2.98, 0, -1, 1, 1, 2.49] } : { matterBox: [-1, 0, -1, 1, 1, 1] }),
      /against the limit box \(left, front\)/,
      true,
    ],
  ])('%s is said, with frames where it is the run that shows it, and its remedies mend the sheet', (id, changes, of, title, remedied) => {
    const settings = sheet(changes);
    const finding = found(settings, of ? frames(of) : []).find((f) => f.id === id);
    expect(finding?.title).toMatch(title);
    expect(finding?.frames !== null).toBe(of !== null);
    expect(finding?.text.length).toBeGreaterThan(30);
    expect((finding?.remedies.length ?? 0) > 0).toBe(remedied);
    for (const remedy of finding?.remedies ?? []) {
      const mended = applyEdits(settings, remedy.edits);
      expect(mended, remedy.title).not.toBeNull();
      expect(mended).not.toEqual(settings);
      // What the sheet alone shows is gone with the remedy.
      if (!of) expect(found(mended as LiquidSolve).map((f) => f.id)).not.toContain(id);
    }
  });

  it('of how particles lie: not of two frames, a handful of liquid, or what is usual', () => {
    const ids = (of: Parameters<typeof frames>[0]): string[] => found(sheet(), frames(of)).map((f) => f.id);
    expect(ids((f) => (f > 6 ? { lie: { empty: 900, clumps: 5000, gap: { mean: 2, largest: 3 } } } : {}))).toEqual([]);
    expect(ids(() => ({ lie: { bulk: 100, empty: 90, clumps: 100 }, liquidVoxels: 150 }))).toEqual([]);
    expect(ids(() => ({ lie: { empty: 40, clumps: 200, gap: { mean: 0.45, largest: 0.9 } } }))).toEqual([]);
    expect(ids(() => ({ lie: null }))).toEqual([]);
  });

  it('a limit box that was drawn is the container, and an open side holds nothing', () => {
    const meets = frames(() => ({ matterBox: [-1, 0, -0.5, 1, 1, 0.5] }));
    expect(found(sheet(), meets)).toEqual([]);
    const open = sheet({ bounds: { walls: { left: 'open', front: 'open' } } });
    expect(
      found(
        open,
        frames(() => ({ matterBox: [-2.98, 0, -1, 1, 1, 2.49] })),
      ),
    ).toEqual([]);
  });

  it('what tension wants is not said as speed, and what is fast besides still is', () => {
    const thin = sheet({ detail: { voxelSize: 0.004 }, matter: { tension: 3 }, stepping: { maxSubsteps: 8 } });
    const ids = (cflReached: number): string[] => {
      const plan = resolvePlan(shot, thin, 'final');
      if (!isLiquidPlan(plan)) throw new Error('no liquid');
      const reports = frames(() => ({ substepsWanted: 33, substepsUsed: 8, cflReached }));
      return findAll({ shot, settings: thin, plan, reports, prediction: null, spent: { seconds: 0, bytes: 0 } }).map((f) => f.id);
    };
    expect(ids(0.7)).toEqual(['tension-step']);
    expect(ids(5)).toEqual(['substep-limit', 'tension-step']);
  });

  it('names the frames, and not those that are right', () => {
    const finding = found(
      sheet(),
      frames((f) => (f > 4 && f < 8 ? { walls: { inside: 2 } } : {})),
    ).find((f) => f.id === 'inside-solid');
    expect(finding?.frames).toEqual({ from: 5, to: 7, count: 3, list: [5, 6, 7] });
  });

  it('a stream is as fast as its volume wants: that is no explosion', () => {
    const jet = { ...pool, act: 'emits', shape: { ...pool.shape, centre: [0, 1.5, 0], size: [0.1, 0.1, 0.1] }, velocity: [0, -1, 0] };
    const fast = frames(() => ({ fastest: 40 }));
    const ids = (volumeRate: number | null): string[] => found(sheet({ sources: [{ ...jet, volumeRate }] }), fast).map((f) => f.id);
    // A hundredth of a square metre: 30 m/s.
    expect(ids(0.3)).not.toContain('explosive');
    expect(ids(null)).toContain('explosive');
  });

  it('what a solid that moves or a force explains is no explosion, and two frames of spray are no drift', () => {
    const pushed = sheet({ forces: { fields: [{ kind: 'draught', name: 'Jet' }] } });
    expect(
      found(
        pushed,
        frames(() => ({ fastest: 80 })),
      ),
    ).toEqual([]);
    expect(
      found(
        sheet(),
        frames((f) => (f > 6 ? { surfaceVolume: 0.9 } : {})),
      ),
    ).toEqual([]);
    // A handful of drops has no surface to speak of.
    expect(
      found(
        sheet(),
        frames(() => ({ surfaceVolume: 0.9, liquidVoxels: 300 })),
      ),
    ).toEqual([]);
  });

  it('an open ceiling that a splash leaves by is only a note', () => {
    const splash = frames((f) => ({ volume: { filled: f === 1 ? 1 : 0, walls: 0.01 } }));
    expect(found(sheet(), splash).map((f) => [f.id, f.severity])).toEqual([['open-container', 'note']]);
    expect(
      found(
        sheet(),
        frames((f) => ({ volume: { filled: f === 1 ? 1 : 0, walls: 0.001 } })),
      ),
    ).toEqual([]);
  });
});
