import { describe, expect, it } from 'vitest';
import type { FrameReport } from '#core/gas';
import { type Rung, type GasSolve, applyEdits, resolvePlan, solveSchema, shotFieldsSchema } from '#core/shot';
import { makeReport, makeReports } from '#testing/values';
import { CHECKS, type CheckInput, findAll, framesText } from '.';

const shot = shotFieldsSchema.parse({ name: 'Yard', lastFrame: 24, budgets: { time: 100, disk: 1e9, memory: 1e9 } });
type Raw = Record<string, unknown>;

/** A plain puff in which nothing is wrong; groups are replaced by what is given. */
const sheet = (changes: Raw = {}): GasSolve =>
  solveSchema.parse({
    detail: { voxelSize: 0.1 },
    bounds: { limit: { min: [-3, 0, -3], max: [3, 6, 3] } },
    sources: [{ name: 'Mouth', shape: { kind: 'ball', centre: [0, 1, 0], radius: 0.5 } }],
    ...changes,
  });

interface Case {
  readonly settings?: GasSolve;
  readonly reports?: FrameReport[];
  readonly rung?: Rung;
  readonly over?: Partial<CheckInput>;
}
const input = ({ settings = sheet(), reports = [], rung = 'final', over = {} }: Case): CheckInput => ({
  shot,
  settings,
  plan: resolvePlan(shot, settings, rung),
  reports,
  prediction: null,
  spent: { seconds: 0, bytes: 0 },
  ...over,
});
const ids = (c: Case): string[] => findAll(input(c)).map((f) => f.id);

const range = (v: number): { low: number; likely: number; high: number } => ({ low: v / 2, likely: v, high: v * 2 });
const cost = (time: number, disk: number, memory: number): Partial<CheckInput> => ({
  prediction: { voxels: range(1e5), memory: range(memory), disk: range(disk), time: range(time), basis: 'same', from: 'run 1' },
  spent: { seconds: 40, bytes: 4e8 },
});
const source = (changes: Raw): Raw => ({
  sources: [{ name: 'Mouth', shape: { kind: 'ball', centre: [0, 1, 0], radius: 0.5 }, ...changes }],
});
const box = (size: number[], over: Raw = {}): Raw => ({
  solids: [{ name: 'Lid', shape: { kind: 'box', centre: [0, 3, 0], size }, ...over }],
});

const swing = (to: number): Raw => ({
  solids: [
    {
      name: 'Door',
      shape: { kind: 'box', centre: [0, 3, 0], size: [2, 2, 0.3] },
      moves: {
        'shape.centre.z': {
          kind: 'keys',
          keys: [
            { frame: 0, value: 0, then: 'straight' },
            { frame: 8, value: to },
          ],
        },
      },
    },
  ],
});
const fire = { soot: 0.5 };
const imported = (changes: Raw): Raw => ({
  solids: [
    {
      name: 'Rock',
      shape: {
        kind: 'mesh',
        geometry: 'a'.repeat(64),
        file: 'rock.obj',
        extent: { min: [-100, -100, -100], max: [100, 100, 100] },
        scale: 0.01,
      },
      ...changes,
    },
  ],
});

/** Finding, a set-up that causes it, and the like of it that does not. */
const TABLE: readonly (readonly [id: string, causes: Case, fine: Case])[] = [
  [
    'substep-limit',
    { reports: makeReports(8, { substepsWanted: 7, substepsUsed: 2, cflReached: 5 }), settings: sheet({ stepping: { maxSubsteps: 2 } }) },
    { reports: makeReports(8, { substepsWanted: 2, substepsUsed: 2 }), settings: sheet({ stepping: { maxSubsteps: 2 } }) },
  ],
  [
    'piling:0',
    {
      settings: sheet(source({ mode: 'add', velocity: [0, 5, 0] })),
      reports: Array.from({ length: 12 }, (_v, n) => makeReport({ frame: n + 1, fastest: 4 + 4 * n })),
    },
    {
      settings: sheet(source({ mode: 'set', velocity: [0, 5, 0] })),
      reports: Array.from({ length: 12 }, (_v, n) => makeReport({ frame: n + 1, fastest: 4 + 4 * n })),
    },
  ],
  [
    'scale:two-ways',
    { settings: sheet({ matter: { lift: 0.005 } }), over: { shot: { ...shot, timeScale: 0.5 } } },
    { settings: sheet({ matter: { lift: 0.033 } }), over: { shot: { ...shot, timeScale: 0.5 } } },
  ],
  [
    'reach',
    { reports: makeReports(8, { mass: { crop: 0.2 }, fastest: 20 }) },
    { reports: makeReports(8, { mass: { crop: 1e-4 }, fastest: 20 }) },
  ],
  [
    'energy',
    { reports: makeReports(8, { energy: { kinetic: 10, loss: 40 } }) },
    { settings: sheet(source({ velocity: [0, 1, 0] })), reports: makeReports(8, { energy: { kinetic: 10, loss: 40 } }) },
  ],
  ['over-smooth', { reports: makeReports(12, { roughness: 0.07 }) }, { reports: makeReports(12, { roughness: 0.2 }) }],
  [
    'unread-channel:temperature',
    { settings: sheet(source({ heat: null })) },
    { settings: sheet({ ...source({ heat: null }), keep: { temperature: false } }) },
  ],
  [
    'unread-channel:fuel',
    { settings: sheet({ ...source({ fuel: 1, heat: 900 }), matter: { fire }, keep: { fuel: true } }) },
    { settings: sheet({ ...source({ fuel: 1, heat: 900 }), matter: { fire } }) },
  ],
  [
    'unread-channel:colour',
    { settings: sheet({ ...source({}), matter: { colour: true } }) },
    {
      settings: sheet({
        sources: [{}, { colour: [0.2, 0.4, 0.6] }].flatMap((s) => source(s)['sources'] as object[]),
        matter: { colour: true },
      }),
    },
  ],
  ['fine-solid:0', { settings: sheet(imported({ voxelSize: 0.05 })) }, { settings: sheet(imported({ voxelSize: 0.1 })) }],
  [
    'thin-solid:0',
    { settings: sheet(imported({ body: 'thin', thickness: 0.05 })) },
    { settings: sheet(imported({ body: 'thin', thickness: 0.25 })) },
  ],
  [
    'open-wall:ceiling',
    { reports: makeReports(8, { mass: { walls: { ceiling: 0.01 } } }) },
    { reports: makeReports(8, { mass: { walls: { ceiling: 1e-4 } } }) },
  ],
  ['open-wall:left', { reports: makeReports(8, { mass: { walls: { left: 0.1 } } }) }, { reports: makeReports(8) }],
  ['small-source:0', { rung: 'sketch' }, { rung: 'test' }],
  ['thin-solid:0', { settings: sheet(box([2, 0.19, 2])) }, { settings: sheet(box([2, 0.2, 2])) }],
  [
    'widened-solid:0',
    { settings: sheet(box([2, 0.19, 2], { widen: 'always' })) },
    { settings: sheet(box([2, 0.2, 2], { widen: 'always' })) },
  ],
  ['nothing:no-source', { settings: sheet({ sources: [] }) }, {}],
  ['nothing:no-source', { settings: sheet(source({ hidden: true })) }, {}],
  ['nothing:outside:0', { settings: sheet(source({ shape: { kind: 'ball', centre: [9, 1, 0], radius: 0.5 } })) }, {}],
  ['nothing:frames:0', { settings: sheet(source({ from: 30 })) }, { settings: sheet(source({ from: 20 })) }],
  ['nothing:no-density', { settings: sheet(source({ density: null })) }, {}],
  [
    'nothing:cut-off',
    { settings: sheet({ bounds: { cutOff: 1, limit: { min: [-3, 0, -3], max: [3, 6, 3] } } }) },
    { settings: sheet({ bounds: { cutOff: 0.5, limit: { min: [-3, 0, -3], max: [3, 6, 3] } } }) },
  ],
  [
    'nothing:pressed:0',
    {
      settings: sheet({
        ...source({ heat: -80, shape: { kind: 'box', centre: [0, 0.1, 0], size: [1, 0.2, 1] } }),
        bounds: { limit: { min: [-3, 0, -3], max: [3, 6, 3] }, walls: { floor: 'closed' } },
      }),
    },
    {
      settings: sheet({
        ...source({ heat: 80, shape: { kind: 'box', centre: [0, 0.1, 0], size: [1, 0.2, 1] } }),
        bounds: { limit: { min: [-3, 0, -3], max: [3, 6, 3] }, walls: { floor: 'closed' } },
      }),
    },
  ],
  ['nothing:decay', { settings: sheet({ matter: { decayTime: 0.02 } }) }, { settings: sheet({ matter: { decayTime: 0.2 } }) }],
  ['nothing:emitted', { reports: makeReports(8, { mass: { sources: 0 }, maxima: { density: 0 } }) }, { reports: makeReports(8) }],
  ['nothing:thin', { reports: makeReports(8, { maxima: { density: 0.002 } }) }, { reports: makeReports(8, { maxima: { density: 0.02 } }) }],
  ['pressure', { reports: makeReports(8, { converged: false, residual: 1e-3 }) }, { reports: makeReports(8) }],
  [
    'numerical-mass',
    // Never a whole per cent in a frame, but a tenth of all in the end.
    { reports: makeReports(40, { mass: { advection: -0.05 } }) },
    { reports: makeReports(40, { mass: { advection: -0.005 } }) },
  ],
  [
    'numerical-heat',
    { reports: makeReports(40, { heat: { ...makeReport().mass, advection: 0.05 } }) },
    { reports: makeReports(40, { heat: { ...makeReport().mass, advection: 0.005 } }) },
  ],
  ['fire:none:0', { settings: sheet(source({ fuel: 1 })) }, { settings: sheet({ ...source({ fuel: 1 }), matter: { fire } }) }],
  ['fire:no-fuel', { settings: sheet({ matter: { fire } }) }, { settings: sheet({ ...source({ fuel: 1 }), matter: { fire } }) }],
  [
    'fire:unlit',
    { settings: sheet({ ...source({ fuel: 1 }), matter: { fire } }), reports: makeReports(8) },
    { settings: sheet({ ...source({ fuel: 1 }), matter: { fire } }), reports: makeReports(8, { mass: { burning: 0.1 } }) },
  ],
  [
    'fire:trapped',
    { settings: sheet({ ...source({ fuel: 1 }), matter: { fire } }), reports: makeReports(8, { trapped: 0.1, mass: { burning: 0.1 } }) },
    { settings: sheet({ ...source({ fuel: 1 }), matter: { fire } }), reports: makeReports(8, { trapped: 1e-6, mass: { burning: 0.1 } }) },
  ],
  ['unused-heat', { settings: sheet({ matter: { lift: 0 } }) }, { settings: sheet({ matter: { lift: 0.02 } }) }],
  [
    'moves:sources[0].moves.heat',
    { settings: sheet(source({ moves: { heat: { kind: 'expression', text: '1 / (frame - 12)' } } })) },
    { settings: sheet(source({ moves: { heat: { kind: 'expression', text: '1 / (frame + 12)' } } })) },
  ],
  [
    'fast-solid:0',
    { settings: sheet(swing(8)), reports: makeReports(8, { substepsUsed: 2 }) },
    { settings: sheet(swing(2)), reports: makeReports(8, { substepsUsed: 2 }) },
  ],
  [
    'idle-guide:0',
    { settings: sheet({ forces: { fields: [{ kind: 'guide', name: 'Fan', shape: null }] } }) },
    {
      settings: sheet({
        forces: { fields: [{ kind: 'guide', name: 'Fan', moves: { 'shape.centre.y': { kind: 'expression', text: '1 + time' } } }] },
      }),
    },
  ],
  ['budget:time', { over: cost(61, 1e8, 1e8) }, { over: cost(59, 1e8, 1e8) }],
  ['budget:disk', { over: cost(10, 6.1e8, 1e8) }, { over: cost(10, 5.9e8, 1e8) }],
  ['budget:memory', { over: cost(10, 1e8, 1.1e9) }, { over: cost(10, 1e8, 0.9e9) }],
  [
    'empty-bounds',
    { settings: sheet({ bounds: { mode: 'dense' } }), reports: makeReports(12, { matterTiles: 10 }) },
    { settings: sheet({ bounds: { mode: 'dense' } }), reports: makeReports(12, { matterTiles: 100 }) },
  ],
  [
    'empty-bounds',
    { settings: sheet({ bounds: { reach: 3 } }), reports: makeReports(12, { matterTiles: 10 }) },
    { settings: sheet({ bounds: { reach: 0.5 } }), reports: makeReports(12, { matterTiles: 10 }) },
  ],
  ['scale:lift', { settings: sheet({ matter: { lift: 0.2 } }) }, { settings: sheet({ matter: { lift: 0.034 } }) }],
  [
    'scale:size:Mouth',
    { settings: sheet(source({ shape: { kind: 'ball', centre: [0, 1, 0], radius: 0.002 } })) },
    { settings: sheet(source({ shape: { kind: 'ball', centre: [0, 1, 0], radius: 0.5 } })) },
  ],
  [
    'scale:speed',
    { reports: makeReports(8, { fastest: 60, substepsUsed: 1 }) },
    { reports: makeReports(8, { fastest: 20, substepsUsed: 1 }) },
  ],
];

describe('findings', () => {
  it.each(TABLE)('%s is found where it is, and only there', (id, causes, fine) => {
    expect(ids(causes)).toContain(id);
    expect(ids(fine)).not.toContain(id);
  });

  it('nothing is found where nothing is wrong', () => {
    expect(ids({ reports: makeReports(24) })).toEqual([]);
  });

  it('every remedy gives valid settings that differ, says so, and mends what it can mend by the settings', () => {
    const settled = [
      'small-source',
      'thin-solid',
      'nothing:outside',
      'nothing:frames',
      'nothing:no-density',
      'nothing:cut-off',
      'nothing:decay',
      'scale:lift',
      'scale:two-ways',
      'fine-solid',
      'unread-channel',
      'fire:none',
      'fire:no-fuel',
      'unused-heat',
      'moves:',
      'bounds-overlap',
    ];
    for (const [id, causes] of TABLE) {
      const given = input(causes);
      const finding = findAll(given).find((f) => f.id === id)!;
      for (const remedy of finding.remedies) {
        const mended = applyEdits(given.settings, remedy.edits);
        expect(mended, `${id}: ${remedy.title}`).not.toBeNull();
        expect(mended).not.toEqual(given.settings);
        if (settled.some((s) => id.startsWith(s))) {
          expect(ids({ ...causes, settings: mended! }), remedy.title).not.toContain(id);
        }
      }
    }
  });

  describe('of several bounds', () => {
    const box = (x: number): Raw => ({ min: [x - 2, 0, -2], max: [x + 2, 6, 2] });
    const both = (far: Raw, beside: Raw = {}): GasSolve =>
      sheet({
        sources: [
          { name: 'Near', shape: { kind: 'ball', centre: [0, 1, 0], radius: 0.5 } },
          { name: 'Far', shape: { kind: 'ball', centre: [40, 1, 0], radius: 0.5, ...far } },
        ],
        bounds: { limit: box(0), beside: [{ name: 'Far chimney', limit: box(40), ...beside }] },
      });
    it('each is looked at by itself; remedies name its own settings', () => {
      expect(ids({ settings: both({}) })).toEqual([]);
      const found = findAll(input({ settings: both({ radius: 0.05 }) }));
      const small = found.find((f) => f.id.startsWith('small-source'))!;
      expect(small).toMatchObject({ id: 'small-source:1@1', title: expect.stringMatching(/^Far chimney: /) as string });
      const finer = small.remedies.flatMap((r) => r.edits).find((e) => e.path.includes('voxelSize'));
      expect(finer?.path).toBe('bounds.beside[0].voxelSize');
      const mended = applyEdits(both({ radius: 0.05 }), [finer!])!;
      expect(ids({ settings: mended })).not.toContain('small-source:1@1');
    });
    it('of a run each has its own reports; what is true of both is said once', () => {
      const settings = both({});
      const together = (first: Partial<FrameReport>, second: Partial<FrameReport>): FrameReport[] =>
        makeReports(8).map((r) => ({
          ...r,
          parts: [
            { ...r, ...first },
            { ...r, ...second },
          ],
        }));
      const limit = { substepsWanted: 9, substepsUsed: 8 };
      expect(ids({ settings, reports: together({}, limit) })).toEqual(['substep-limit@1']);
      expect(ids({ settings, reports: together(limit, limit) })).toEqual(['substep-limit']);
    });
    it('that overlap are told', () => {
      expect(ids({ settings: both({}, { limit: { min: [1, 0, -2], max: [42, 6, 2] } }) })).toContain('bounds-overlap:0-1');
    });
  });

  it('say which frames they are about', () => {
    const reports = [1, 2, 3, 7, 8].map((frame) => makeReport({ frame, substepsWanted: 9, substepsUsed: 8 }));
    const [finding] = findAll(input({ reports: [...reports, makeReport({ frame: 9 })] }));
    expect(finding!.frames).toEqual({ from: 1, to: 8, count: 5, list: [1, 2, 3, 7, 8] });
    expect(framesText(finding!.frames)).toBe('frames 1 to 8, 5 of them');
    expect(finding!.remedies[0]).toEqual({ title: 'Most substeps 8 → 9', edits: [{ path: 'stepping.maxSubsteps', value: 9 }] });
  });

  it('give the substeps that the Final wants, when a coarse run wants fewer', () => {
    const settings = sheet({ detail: { voxelSize: 0.05 }, stepping: { maxSubsteps: 1, cfl: 2 } });
    const reports = makeReports(8, { substepsWanted: 2, substepsUsed: 1, substepSpeed: 7.2 });
    const [finding] = findAll(input({ reports, settings })).filter((f) => f.id === 'substep-limit');
    // 7.2 m/s / (24 frames/s x 2 voxels x 0.05 m) = 3
    expect(finding!.remedies[0]!.edits).toEqual([{ path: 'stepping.maxSubsteps', value: 3 }]);
    expect(finding!.text).toContain('want 3');
  });

  it('name their checks: each check is reached by the table', () => {
    for (const check of CHECKS)
      expect(
        TABLE.some(([id]) => id.startsWith(check.id)),
        check.id,
      ).toBe(true);
  });
});
