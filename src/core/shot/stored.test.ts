import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import {
  SHOT_VERSION,
  differences,
  parseShotFile,
  readStoredFields,
  readStoredPlan,
  readStoredSettings,
  resolvePlan,
  settingsSchema,
  followersOf,
  shotFieldsSchema,
  gasSolveOf,
  solveOf,
  storedText,
} from '.';
import { settingsOf } from '#testing/values';

const fixtures = join(import.meta.dirname, 'fixtures');

interface Row {
  readonly fields: object;
  readonly settings: object;
  readonly plan: object;
}
/** Rows as versions 1 of four different days stored them: the demo shots of each day. */
const days = readdirSync(fixtures)
  .filter((f) => f.startsWith('rows-'))
  .map((f) => [f, JSON.parse(readFileSync(join(fixtures, f), 'utf8')) as Row[]] as const);

describe('rows of older versions', () => {
  it.each(days)('%s: fields, settings and plans are read, and a plan means what it meant', (_file, rows) => {
    expect(rows.length).toBeGreaterThan(0);
    for (const row of rows) {
      const fields = readStoredFields(JSON.stringify(row.fields));
      const settings = readStoredSettings(JSON.stringify(row.settings));
      expect(fields).toMatchObject(row.fields);
      expect({ ...gasSolveOf(settings), passes: followersOf(settings) }).toMatchObject(row.settings);
      const plan = readStoredPlan(JSON.stringify(row.plan));
      // What was filled in is what the same settings give today, and the rest is as it was.
      const today = resolvePlan(fields, gasSolveOf(settings), 'test');
      expect(differences(JSON.parse(JSON.stringify(today)), JSON.parse(JSON.stringify(plan)))).toEqual([]);
    }
  });

  it('settings of version 3: the scene is apart, the solve is the first of the passes, what read it reads it still', () => {
    const coarse = { id: 'coarse', kind: 'resample', name: 'Coarse', settings: { voxelFactor: 3 } };
    const stored = {
      ruddle: 3,
      scale: { upAxis: 'z' },
      solids: [{ name: 'Lid', shape: { kind: 'box' } }],
      detail: { voxelSize: 0.07 },
      sources: [{ name: 'Vent', shape: { kind: 'ball' } }],
      passes: [coarse, { id: 'look', kind: 'stills', name: 'Look', input: { pass: 'coarse' } }],
    };
    const settings = readStoredSettings(JSON.stringify(stored));
    expect(settings.scene).toMatchObject({ scale: { upAxis: 'z' }, solids: [{ name: 'Lid' }] });
    expect(settings.passes).toMatchObject([
      { id: 'solve', kind: 'gas', settings: { detail: { voxelSize: 0.07 }, sources: [{ name: 'Vent' }] } },
      { ...coarse, input: { pass: 'solve' } },
      { id: 'look', input: { pass: 'coarse' } },
    ]);
    expect(readStoredSettings('{"ruddle":3}')).toEqual(settingsSchema.parse({}));
  });

  it('a row of today is stamped, and read as it was', () => {
    const fields = shotFieldsSchema.parse({ name: 'Yard', lastFrame: 12 });
    const settings = settingsOf({ sources: [{ shape: { kind: 'ball' } }] });
    const plan = resolvePlan(fields, gasSolveOf(settings), 'final');
    expect(JSON.parse(storedText(settings))).toMatchObject({ ruddle: SHOT_VERSION });
    expect(readStoredFields(storedText(fields))).toEqual(fields);
    expect(readStoredSettings(storedText(settings))).toEqual(settings);
    expect(readStoredPlan(storedText(plan))).toEqual(plan);
  });

  it('what cannot be read says why: no JSON, another shape, a newer version', () => {
    const settings = settingsSchema.parse({});
    const tooFar = { detail: { voxelSize: -1 }, more: 3 };
    expect(() => readStoredSettings('{"detail":')).toThrow(/variant cannot be read: it is not JSON/);
    expect(() => readStoredSettings('[]')).toThrow(/it is no object/);
    expect(() => readStoredSettings(JSON.stringify(tooFar))).toThrow(/detail\.voxelSize: found -1.*more: is not a field/s);
    expect(() => readStoredSettings(JSON.stringify({ ruddle: SHOT_VERSION + 1, ...settings }))).toThrow(/from a newer Ruddle/);
    expect(() => readStoredFields(JSON.stringify({ ruddle: 'x', name: 'Yard' }))).toThrow(/its version is "x"/);
    const plan = resolvePlan(shotFieldsSchema.parse({ name: 'Yard' }), gasSolveOf(settings), 'test');
    expect(() => readStoredPlan(storedText({ ...plan, options: { ...plan.options, voxelSize: 0 } }))).toThrow(/options\.voxelSize/);
    expect(() => readStoredPlan('{}')).toThrow(/The plan cannot be read/);
  });
});

describe('shot files of older versions', () => {
  const file = (over: object = {}): string =>
    JSON.stringify({ ruddle: 1, name: 'Yard', variants: [{ name: 'One', settings: { detail: { voxelSize: 0.2 } } }], ...over });

  it('are read as this version', () => {
    const shot = parseShotFile(file(), 'yard.json');
    expect(shot.ruddle).toBe(SHOT_VERSION);
    expect(gasSolveOf(shot.variants[0]!.settings).detail.voxelSize).toBe(0.2);
    // With the mark that some editors put in front.
    expect(parseShotFile(`\uFEFF${file()}`, 'yard.json')).toEqual(shot);
  });

  it('whose liquid emitted as much as fell out of its source keep it full; a rate stays, and is given now', () => {
    const sources = [
      { act: 'emits', velocity: [0, -1, 0] },
      { act: 'emits', volumeRate: 0.02, velocity: [0, -1, 0] },
      { act: 'fills' },
    ].map((s) => ({ shape: { kind: 'ball' }, ...s }));
    const passes = [{ id: 'solve', kind: 'liquid', name: 'Solve', settings: { sources } }];
    const acts = (ruddle: number): unknown => {
      const solve = solveOf(parseShotFile(file({ ruddle, variants: [{ name: 'One', settings: { passes } }] }), 'x').variants[0]!.settings);
      return solve.sources.map((s) => ('act' in s ? [s.act, s.volumeRate, s.opening] : null));
    };
    const rest = [
      ['emits', 0.02, 'shape'],
      ['fills', null, 'shape'],
    ];
    expect(acts(4)).toEqual([['keeps', null, 'shape'], ...rest]);
    expect(acts(SHOT_VERSION)).toEqual([['emits', null, 'shape'], ...rest]);
  });

  it('say where a mistake is as they have it, not as this version does', () => {
    const passes = [{ id: 'a', kind: 'resample', name: 'A', settings: { voxelFactor: 99 } }];
    const settings = { detail: { voxelSize: -1 }, solids: [{ shape: { kind: 'cube' } }], smell: 1, passes };
    const wrong = (ruddle: number, given: object) => () =>
      parseShotFile(file({ ruddle, variants: [{ name: 'One', settings: given }] }), 'x');
    for (const place of ['detail\\.voxelSize', 'solids\\[0\\]\\.shape\\.kind', 'smell', 'passes\\[0\\]\\.settings\\.voxelFactor'])
      expect(wrong(3, settings)).toThrow(new RegExp(`^  variants\\[0\\]\\.settings\\.${place}: `, 'm'));
    const now = { passes: [{ id: 'solve', kind: 'gas', name: 'Solve', settings: { detail: { voxelSize: -1 } } }] };
    expect(wrong(SHOT_VERSION, now)).toThrow(/settings\.passes\[0\]\.settings\.detail\.voxelSize: found -1/);
    expect(wrong(SHOT_VERSION, { passes })).toThrow(/the first pass must be the solve/);
  });

  it('keep the scheme that they meant: MacCormack, unless they name another; new shots are conservative', () => {
    const schemes = [1, 2, 3].map((ruddle) => {
      const shot = parseShotFile(
        file({
          ruddle,
          variants: [
            { name: 'A', settings: {} },
            { name: 'B', settings: { matter: { scalarAdvection: 'cubic', lift: 0.1 } } },
          ],
        }),
        'yard.json',
      );
      return shot.variants.map((v) => gasSolveOf(v.settings).matter).map((m) => `${m.scalarAdvection} ${String(m.lift)}`);
    });
    expect(schemes).toEqual([
      ['maccormack 0.02', 'cubic 0.1'],
      ['maccormack 0.02', 'cubic 0.1'],
      ['ppm 0.02', 'cubic 0.1'],
    ]);
  });

  it('of a newer one, nested without end, or with parents that go round: refused with the reason', () => {
    expect(() => parseShotFile(file({ ruddle: 99 }), 'x')).toThrow(/ruddle: found 99; it is from a newer Ruddle/);
    expect(() => parseShotFile('['.repeat(5000) + ']'.repeat(5000), 'x')).toThrow(/more than 64 deep/);
    const variant = (name: string, parent: string | null): object => ({ name, parent, settings: {} });
    expect(() => parseShotFile(file({ variants: [variant('A', 'Z')] }), 'x')).toThrow(/there is no variant "Z" in this file/);
    expect(() => parseShotFile(file({ variants: [variant('A', 'B'), variant('B', 'A')] }), 'x')).toThrow(/go round in a circle/);
    expect(() => parseShotFile(file({ variants: [variant('A', 'A')] }), 'x')).toThrow(/go round in a circle/);
    expect(parseShotFile(file({ variants: [variant('A', null), variant('B', 'A')] }), 'x').variants).toHaveLength(2);
  });
});
