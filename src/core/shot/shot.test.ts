import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isRuddleError } from '#core/errors';
import { settingsOf } from '#testing/values';
import {
  applyEdits,
  cacheState,
  canonicalJson,
  differences,
  parseShotFile,
  resolvePlan,
  runKey,
  settingsDifferences,
  shotFieldsSchema,
  showDifference,
  gasSolveOf,
  solveSchema,
  variantName,
  type GasSolve,
} from '.';

const demo = (): ReturnType<typeof parseShotFile> => parseShotFile(readFileSync('demo/kiln-stack.json', 'utf8'), 'kiln-stack.json');

interface Entries {
  passes: { settings: Record<string, Record<string, unknown>> }[];
}

describe('shot files', () => {
  it('the demo shot is valid, and what is left out has its default', () => {
    const shot = demo();
    expect(shot.variants.map((v) => v.name)).toEqual(['Coarse', 'Finer', 'Rushed']);
    expect(gasSolveOf(shot.variants[0]!.settings).stepping.tolerance).toBe(1e-4);
    expect(gasSolveOf(shot.variants[0]!.settings).bounds.walls.ceiling).toBe('open');
  });

  it('a wrong file names every place, what was found and what is allowed, all at once', () => {
    const file = JSON.parse(readFileSync('demo/kiln-stack.json', 'utf8')) as {
      ruddle: number;
      variants: { settings: Entries }[];
      framesPerSecond: unknown;
    };
    const solve = (n: number): Record<string, Record<string, unknown>> => file.variants[n]!.settings.passes[0]!.settings;
    file.framesPerSecond = 'fast';
    solve(0)['detail']!['voxelSize'] = -1;
    solve(0)['stepping']!['maxSubsteps'] = 2.5;
    solve(1)['matter']!['smell'] = 3;
    solve(1)['bounds']!['mode'] = 'elastic';
    try {
      parseShotFile(JSON.stringify(file), 'wrong.json');
      expect.unreachable();
    } catch (error) {
      if (!isRuddleError(error, 'settings-invalid')) throw error;
      const paths = error.fields.issues.map((i) => i.path);
      expect(paths).toEqual(
        expect.arrayContaining([
          'framesPerSecond',
          'variants[0].settings.passes[0].settings.detail.voxelSize',
          'variants[0].settings.passes[0].settings.stepping.maxSubsteps',
          'variants[1].settings.passes[0].settings.matter.smell',
          'variants[1].settings.passes[0].settings.bounds.mode',
        ]),
      );
      const at = (path: string): string => error.fields.issues.find((i) => i.path === path)!.message;
      expect(at('framesPerSecond')).toMatch(/found "fast".*number/);
      expect(at('variants[0].settings.passes[0].settings.detail.voxelSize')).toMatch(/found -1.*0\.0001/);
      expect(at('variants[1].settings.passes[0].settings.bounds.mode')).toMatch(/found "elastic".*adaptive.*fixed.*dense/);
      expect(error.message).toContain('wrong.json has 5 mistakes');
    }
  });

  it('rules between fields hold too', () => {
    const bad = (change: (s: { lastFrame?: number; variants: { name: string; settings: Entries }[] }) => void): string => {
      const file = JSON.parse(readFileSync('demo/kiln-stack.json', 'utf8')) as Parameters<typeof change>[0];
      change(file);
      try {
        parseShotFile(JSON.stringify(file), 'f');
        return '';
      } catch (error) {
        return (error as Error).message;
      }
    };
    expect(
      bad((f) => {
        f.lastFrame = 0;
      }),
    ).toContain('last frame must not come before');
    expect(
      bad((f) => {
        f.variants[1]!.name = 'Coarse';
      }),
    ).toContain('same name');
    expect(
      bad((f) => {
        f.variants[0]!.settings.passes[0]!.settings['stepping'] = { minSubsteps: 9, maxSubsteps: 3 };
      }),
    ).toContain('fewest substeps');
    expect(
      bad((f) => {
        f.variants[0]!.settings.passes[0]!.settings['bounds']!['limit'] = { min: [0, 0, 0], max: [1, -1, 1] };
      }),
    ).toContain('lowest corner');
    expect(
      bad((f) => {
        f.variants[0]!.settings.passes[0]!.settings['keep'] = { density: false, temperature: false, vel: false };
      }),
    ).toContain('at least one channel');
    expect(() => parseShotFile('{', 'x.json')).toThrow(/x\.json is not a shot file: it is not JSON/);
  });
});

describe('plans and run keys', () => {
  const shot = demo();
  const settings = gasSolveOf(shot.variants[0]!.settings);
  const key = (s: GasSolve, rung: 'test' | 'final' = 'test', fields = shot): string => runKey(resolvePlan(fields, s, rung));

  it('a rung scales the voxel size and nothing that describes the world', () => {
    const [test, final] = [resolvePlan(shot, settings, 'test').options, resolvePlan(shot, settings, 'final').options];
    expect(test.voxelSize).toBeCloseTo(2 * final.voxelSize, 12);
    expect({ ...test, voxelSize: 0 }).toEqual({ ...final, voxelSize: 0 });
    expect(resolvePlan(shot, { ...settings, bounds: { ...settings.bounds, reach: null } }, 'test').options.bounds.reach).toBeCloseTo(
      0.72,
      9,
    );
  });

  it('the key changes with what changes the result, and with nothing else', () => {
    const base = key(settings);
    expect(key(structuredClone(settings))).toBe(base);
    expect(key(settings, 'final')).not.toBe(base);
    expect(key({ ...settings, detail: { voxelSize: 0.08 } })).not.toBe(base);
    expect(key(settings, 'test', { ...shot, framesPerSecond: 25 })).not.toBe(base);
    expect(key(settings, 'test', { ...shot, metresPerUnit: 2 })).not.toBe(base);
    expect(key(settings, 'test', { ...shot, lastFrame: 200 })).toBe(base);
    expect(key(settings, 'test', { ...shot, name: 'Other' })).toBe(base);
    expect(key({ ...settings, sources: settings.sources.map((s) => ({ ...s, name: 'x' })) })).toBe(base);
  });

  it('canonical JSON does not depend on the order of keys', () => {
    fc.assert(
      fc.property(fc.dictionary(fc.string(), fc.oneof(fc.integer(), fc.string(), fc.boolean())), (o) => {
        const reversed = Object.fromEntries(Object.entries(o).reverse());
        expect(canonicalJson(reversed)).toBe(canonicalJson(o));
      }),
    );
  });

  it('passes that change places differ in their order, and each in what was changed of it', () => {
    const [coarse, look] = [
      { id: 'coarse', kind: 'resample', name: 'Coarse' },
      { id: 'look', kind: 'stills', name: 'Look' },
    ];
    const between = (from: object[], to: object[]) =>
      settingsDifferences(settingsOf({}, from as never), settingsOf({ detail: { voxelSize: 0.1 } }, to as never));
    expect(between([coarse, look], [look, coarse])).toEqual([{ path: 'passes', from: 'solve, coarse, look', to: 'solve, look, coarse' }]);
    expect(variantName(between([coarse, look], [look, coarse]), [])).toBe('Order of the passes: solve, look, coarse');
    const changed = between([coarse, look], [{ ...look, settings: { width: 96 } }, coarse]);
    expect(changed.map((d) => d.path)).toEqual(['passes', 'passes[1].settings.width']);
    expect(showDifference(changed[1]!)).toBe('Look: Width 640 → 96');
    expect(between([coarse, look], [look]).map(showDifference)).toEqual(['Coarse taken out']);
    expect(between([look], [coarse, look]).map(showDifference)).toEqual(['Coarse added']);
  });

  it('the solve of settings is one object as long as it and its scene are, whatever happens to the other passes', () => {
    const given = settingsOf({ detail: { voxelSize: 0.05 } });
    expect(gasSolveOf({ ...given, passes: [...given.passes] })).toBe(gasSolveOf(given));
    const turned = { ...given, scene: { ...given.scene, scale: { upAxis: 'z' as const } } };
    expect(gasSolveOf(turned).scale.upAxis).toBe('z');
    expect(gasSolveOf(given).scale.upAxis).toBe('y');
    // A sheet and what it began as, asked for in turn, as the page does.
    const [first, second] = [gasSolveOf(given), gasSolveOf(turned)];
    expect([gasSolveOf(given) === first, gasSolveOf(turned) === second]).toEqual([true, true]);
  });

  it('differences are leaves, said in words, and name a new variant', () => {
    const changed: GasSolve = {
      ...settings,
      detail: { voxelSize: 0.08 },
      forces: { ...settings.forces, wind: [3, 0, 0] },
      bounds: { ...settings.bounds, reach: null },
    };
    const d = differences(settings, changed);
    expect(d.map((x) => x.path).sort()).toEqual(['bounds.reach', 'detail.voxelSize', 'forces.wind']);
    expect(showDifference(d.find((x) => x.path === 'detail.voxelSize')!)).toBe('Voxel size 0.09 m → 0.08 m');
    expect(showDifference(d.find((x) => x.path === 'forces.wind')!)).toBe('Wind 1.7, 0, 0.2 m/s → 3, 0, 0 m/s');
    expect(showDifference(d.find((x) => x.path === 'bounds.reach')!)).toContain('0.5 m or 8 voxels');
    expect(variantName(differences(settings, { ...settings, detail: { voxelSize: 0.08 } }), [])).toBe('Voxel size 0.08 m');
    expect(variantName(differences(settings, { ...settings, detail: { voxelSize: 0.08 } }), ['Voxel size 0.08 m'])).toBe(
      'Voxel size 0.08 m (2)',
    );
  });

  it('the state of a cache', () => {
    const run = { key: 'a', state: 'done', framesDone: 10, damagedFrames: 0, missingFrames: 0, freed: false } as const;
    expect(cacheState(run, 'a', 10)).toBe('fresh');
    expect(cacheState(run, 'b', 10)).toBe('stale');
    expect(cacheState(run, 'a', 12)).toBe('partial');
    expect(cacheState({ ...run, state: 'failed', framesDone: 4 }, 'a', 10)).toBe('failed');
    expect(cacheState({ ...run, state: 'failed', framesDone: 0 }, 'a', 10)).toBe('failed');
    expect(cacheState({ ...run, freed: true }, 'a', 10)).toBe('missing');
    expect(cacheState({ ...run, state: 'queued', framesDone: 0 }, 'b', 10)).toBe('missing');
    // What is on the disk comes before what it is of.
    expect(cacheState({ ...run, damagedFrames: 1 }, 'b', 10)).toBe('damaged');
    expect(cacheState({ ...run, missingFrames: 3 }, 'a', 10)).toBe('damaged');
    expect(cacheState({ ...run, missingFrames: 10 }, 'a', 10)).toBe('missing');
  });
});

describe('edits by path', () => {
  const settings = gasSolveOf(demo().variants[0]!.settings);

  it('change what they name and share the rest', () => {
    const changed = applyEdits(settings, [
      { path: 'detail.voxelSize', value: 0.02 },
      { path: 'sources[0].heat', value: 111 },
    ])!;
    expect([changed.detail.voxelSize, changed.sources[0]!.heat]).toEqual([0.02, 111]);
    expect({ ...changed, detail: settings.detail, sources: settings.sources }).toEqual(settings);
    expect(changed.sources.slice(1)).toEqual(settings.sources.slice(1));
  });

  it('come to nothing when what comes of them is not valid', () => {
    for (const edit of [
      { path: 'detail.voxelSize', value: -1 },
      { path: 'detail.smell', value: 1 },
      { path: 'stepping.minSubsteps', value: 64 },
    ]) {
      expect(applyEdits(settings, [edit])).toBeNull();
    }
  });
});

describe('a solid that is widened to the voxels', () => {
  const plate = (over: object): GasSolve =>
    solveSchema.parse({
      detail: { voxelSize: 0.1 },
      solids: [{ name: 'Plate', shape: { kind: 'box', centre: [0, 0, 0], size: [2, 0.05, 2] }, ...over }],
    });
  const solidOf = (settings: GasSolve, rung: 'test' | 'final') =>
    resolvePlan(shotFieldsSchema.parse({ name: 'Yard' }), settings, rung).options.solids[0]!;

  it('is two voxels thick at every rung, and as it is where that is thicker', () => {
    // Of 0.05 m: half of what is missing on each side, in voxels.
    expect(solidOf(plate({ widen: 'always' }), 'final').offset).toBeCloseTo((0.2 - 0.05) / 0.1 / 2, 12);
    expect(solidOf(plate({ widen: 'always' }), 'test').offset).toBeCloseTo((0.4 - 0.05) / 0.2 / 2, 12);
    expect(solidOf(plate({ widen: 'always', offset: 0.5 }), 'final').offset).toBeCloseTo(0.5 + 0.75, 12);
    expect(solidOf(plate({}), 'final').offset).toBe(0);
    const thick = { kind: 'box', centre: [0, 0, 0], size: [2, 0.5, 2] };
    expect(solidOf(plate({ widen: 'always', shape: thick }), 'final').offset).toBe(0);
    expect(solidOf(plate({ widen: 'always', body: 'hollow', thickness: 0.02, shape: thick }), 'final')).toMatchObject({
      thickness: 0.2,
      offset: 0,
    });
  });
});
