import { describe, expect, it } from 'vitest';
import { surfaceSettingsSchema, type SurfaceSettings } from '#core/shot';
import { makeSurfaceReport } from '#testing/values';
import { surfaceChecks } from './checks';
import { surfaceDefinition, surfaceNote } from '.';

const own = (changes: object = {}): SurfaceSettings => surfaceSettingsSchema.parse(changes);
const ids = (settings: SurfaceSettings, ...reports: Parameters<typeof surfaceChecks>[1]): string[] =>
  surfaceChecks(settings, reports).map((f) => f.id);
const fine = makeSurfaceReport();

describe("a surface's checks", () => {
  it.each([
    ['nothing', {}, [fine, fine, fine], []],
    ['particles that poke through', {}, [fine, makeSurfaceReport({ frame: 2, outside: { count: 2500, farthest: 0.02 } })], ['outside']],
    ['thin parts that the radius lost', {}, [makeSurfaceReport({ thin: { particles: 100, before: 40, after: [], kept: 40 } })], ['thin']],
    ['few thin particles say nothing', {}, [makeSurfaceReport({ thin: { particles: 9, before: 9, after: [], kept: 0 } })], []],
    ['volume', {}, [makeSurfaceReport({ volume: { skin: 0.44, particles: 0.4 } })], ['volume']],
    [
      'volume of a skin that reaches into walls is another',
      { walls: { meeting: 'inside' } },
      [makeSurfaceReport({ volume: { skin: 0.44, particles: 0.4 } })],
      [],
    ],
    [
      'breathing',
      { polygons: { keepVolume: false } },
      [fine, makeSurfaceReport({ frame: 2, volume: { skin: 0.409, particles: 0.4 } }), fine],
      ['volume', 'drift'],
    ],
    ['flicker', {}, [makeSurfaceReport({ flicker: 0.6 })], ['flicker']],
    ['crumbs', {}, [makeSurfaceReport({ pieces: { pieces: 800, crumbs: 700 } })], ['crumbs']],
    [
      'gap',
      { walls: { meeting: 'trimmed' } },
      [makeSurfaceReport({ contact: { vertices: 100, gap: { mean: 0.005, largest: 0.01 }, overlap: { mean: 0, largest: 0 } } })],
      ['gap'],
    ],
    ['radii that are none', { distance: { radius: 'own' } }, [makeSurfaceReport({ without: 12 })], ['without']],
  ] as const)('%s', (_what, settings, reports, expected) => {
    expect(surfaceChecks(own(settings), reports).map((f) => f.id)).toEqual(expected);
  });

  it('every remedy is a setting that can be, and says where', () => {
    const settings = own({ stack: [{ kind: 'open', strength: 1.5 }], walls: { meeting: 'trimmed' }, polygons: { keepVolume: false } });
    const bad = makeSurfaceReport({
      outside: { count: 9000, farthest: 0.1 },
      thin: { particles: 100, before: 95, after: [10], kept: 10 },
      eaten: { filter: 0, without: 90 },
      flicker: 0.6,
      pieces: { pieces: 900, crumbs: 800 },
      volume: { skin: 0.5, particles: 0.4 },
      contact: { vertices: 10, gap: { mean: 0.01, largest: 0.02 }, overlap: { mean: 0, largest: 0 } },
      without: 3,
    });
    const findings = surfaceChecks(settings, [fine, bad, fine]);
    expect(findings.map((f) => f.id)).toEqual(['thin', 'outside', 'volume', 'drift', 'flicker', 'crumbs', 'gap', 'without']);
    for (const { remedies = [], title, text } of findings) {
      expect(`${title} ${text}`).not.toMatch(/NaN|Infinity|undefined/);
      for (const { path, value } of remedies) {
        const changed = structuredClone(settings) as never as Record<string, unknown>;
        const at = path.slice(0, -1).reduce<Record<string | number, unknown>>((o, k) => o[k] as Record<string | number, unknown>, changed);
        expect(Object.keys(at)).toContain(String(path[path.length - 1]));
        at[path[path.length - 1]!] = value;
        expect(surfaceSettingsSchema.safeParse(changed).error?.issues ?? []).toEqual([]);
      }
    }
  });

  it('a radius is held against the voxel whatever either follows', () => {
    expect(surfaceNote(own(), 0.02)).toBeNull();
    expect(surfaceNote(own(), null)).toBeNull();
    expect(surfaceNote(own({ distance: { radiusFactor: 0.5 } }), 0.02)).toMatch(/fall between voxels/);
    expect(surfaceNote(own({ distance: { radius: 'metres', radiusMetres: 0.01, voxelSize: 0.02 } }), 0.02)).toMatch(/voxels of 0\.012 m/);
    expect(surfaceNote(own({ distance: { radius: 'own', radiusFactor: 0.1 } }), 0.02)).toBeNull();
  });

  it('figures have a number where there is one, and none where nothing was measured', () => {
    const values = Object.fromEntries(
      surfaceDefinition.figures.map((f) => [
        f.id,
        f.of(makeSurfaceReport({ contact: null, thin: { particles: 0, before: 0, after: [], kept: 0 } })),
      ]),
    );
    expect(values).toMatchObject({ outside: 0.04, volume: 100, thin: null, gap: null, flicker: null, triangles: 20_000, crumbs: 1 });
    expect(ids(own(), fine)).toEqual([]);
  });
});
