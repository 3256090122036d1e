import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { validateBytes } from 'gltf-validator';
import { afterAll, describe, expect, it } from 'vitest';
import { RuddleError } from '#core/errors';
import { type ParticleColumns, readMeshPreview, readPly, readPointsPreview, summarizePly, writePly } from '#core/formats';
import { Chain, type SurfaceBody, type SurfaceReport } from '#core/passes';
import type { PassPlan } from '#core/pass';
import { type SurfaceSettings, parseShotFile } from '#core/shot';
import { latticeParticles, withTeam } from '#testing';
import type { PassJob, PassOutput } from './contract';
import { surfacePass } from './surface';

const folder = mkdtempSync(join(tmpdir(), 'surface-'));
afterAll(() => {
  rmSync(folder, { recursive: true });
});

const S = 0.02;
const ball = latticeParticles(
  S,
  [0.3, 0.3, 0.3],
  (x, y, z) => Math.hypot(x, y - 0.05, z) < 0.2,
  () => 0,
  (x, _y, z) => [-z, 1, x],
);
const columns = (p = ball): ParticleColumns => ({
  ...p,
  places: p.places.map((v, n) => (n % 4 === 3 ? 0.25 : v)),
  ids: Uint32Array.from({ length: p.count }, (_v, n) => n),
});

type Deep<T> = { readonly [K in keyof T]?: T[K] extends object ? (T[K] extends readonly unknown[] ? T[K] : Deep<T[K]>) : T[K] };

/** The plan of a skin of a liquid whose particles are S apart, in scene units of a tenth of a metre with z up. */
function planOf(settings: Deep<SurfaceSettings>, shot: Record<string, unknown> = {}): PassPlan<string, SurfaceBody> {
  const file = {
    ruddle: 5,
    name: 'Ball',
    metresPerUnit: 0.1,
    ...shot,
    variants: [
      {
        name: 'One',
        settings: {
          scene: { scale: { upAxis: 'z' } },
          passes: [
            {
              id: 'solve',
              kind: 'liquid',
              name: 'Solve',
              settings: {
                detail: { voxelSize: 2 * S },
                bounds: { limit: { min: [-1, -1, -1], max: [1, 1, 1] } },
                keep: { radius: true },
                sources: [{ name: 'Ball', shape: { kind: 'ball', centre: [0, 0.05, 0], radius: 0.2 } }],
              },
            },
            { id: 'skin', kind: 'surface', name: 'Skin', settings },
          ],
        },
      },
    ],
  };
  const parsed = parseShotFile(JSON.stringify(file), 'ball.json');
  const chain = new Chain(parsed, parsed.variants[0]!.settings, { run: () => null, folder: () => null });
  const entry = chain.entry('skin', 'final');
  if (entry.problem !== null) throw new Error(entry.problem);
  return entry.plan as unknown as PassPlan<string, SurfaceBody>;
}

const skin = (plan: PassPlan<string, SurfaceBody>, points: PassJob<SurfaceBody>['points'], frame = 1): Promise<PassOutput<SurfaceReport>> =>
  withTeam(1, (team) =>
    surfacePass({
      plan,
      points,
      read: () => [],
      beside: () => ({ points, read: () => [] }),
      forms: () => {
        throw new Error('no shapes');
      },
      pictures: () => {
        throw new Error('no pictures');
      },
      team: () => team,
      clock: () => performance.now() / 1000,
      png: () => Promise.reject(new Error('no pictures')),
      uuid: () => '00000000-0000-0000-0000-000000000000',
      from: null,
      alive: () => undefined,
      keep: () => undefined,
    }).frame(frame, true),
  );

/** As the solver's file says it, so that attributes come with it. */
const read: PassJob<SurfaceBody>['points'] = (_frame, more) => {
  const own = columns();
  const convention = { metresPerUnit: 0.1, upAxis: 'z', timeScale: 1 } as const;
  const bytes = writePly(own, convention, [{ name: 'radius', values: new Float32Array(own.count).fill(0.62 * S), of: 'length' }]);
  return readPly(bytes, convention, 'solve.0001.ply', more);
};

const V = (4 / 3) * Math.PI * 0.2 ** 3;

describe('a surface pass', () => {
  it('writes .ply that others read: scene units, z up, velocity and attributes at each vertex', async () => {
    const { report, parts } = await skin(planOf({ files: { attributes: 'age, radius' } }), read);
    const { bytes } = parts[0]!;
    expect(parts[0]!.extension).toBe('ply');
    const summary = summarizePly(bytes, 'surface.0001.ply');
    expect(summary.count).toBe(report.vertices);
    const of = (name: string): (typeof summary.properties)[number] => summary.properties.find((p) => p.name === name)!;
    // The middle lies 0.05 m up: half a unit along z.
    expect((of('z').maximum! + of('z').minimum!) / 2).toBeCloseTo(0.5, 1);
    expect(of('z').maximum! - of('z').minimum!).toBeCloseTo(4, 0);
    expect(of('vz').mean).toBeCloseTo(10, 3);
    expect(of('age').mean).toBeCloseTo(0.25, 4);
    expect(of('radius').mean).toBeCloseTo(0.62 * S, 4);
    expect(report.volume.skin / V).toBeCloseTo(1, 1);
    const path = join(folder, 'surface.0001.ply');
    writeFileSync(path, bytes);
    const info = execFileSync('assimp', ['info', path], { encoding: 'utf8' });
    expect(info).toMatch(new RegExp(`Faces:\\s+${String(report.triangles)}\\b`));
  });

  it('writes .obj that others read', async () => {
    const { report, parts } = await skin(planOf({ files: { mesh: 'obj' } }), read);
    const path = join(folder, 'surface.0001.obj');
    writeFileSync(path, parts[0]!.bytes);
    const info = execFileSync('assimp', ['info', path], { encoding: 'utf8' });
    expect(info).toMatch(new RegExp(`Faces:\\s+${String(report.triangles)}\\b`));
  });

  it('writes .glb without a fault to the validator, packed too, in metres and y up', async () => {
    const sizes: number[] = [];
    for (const compressed of [false, true]) {
      const { report, parts } = await skin(planOf({ files: { mesh: 'glb', compressed, attributes: 'age' } }), read);
      const { bytes } = parts[0]!;
      sizes.push(bytes.length);
      const found = await validateBytes(bytes);
      expect(found.issues.messages.filter((m) => m.severity === 0)).toEqual([]);
      if (!compressed) {
        expect(found.info.totalTriangleCount).toBe(report.triangles);
        const path = join(folder, 'surface.0001.glb');
        writeFileSync(path, bytes);
        const info = execFileSync('assimp', ['info', path], { encoding: 'utf8' });
        expect(info).toMatch(new RegExp(`Faces:\\s+${String(report.triangles)}\\b`));
        const top = /Maximum point\s+\(([^)]+)\)/.exec(info)![1]!.split(/\s+/).map(Number);
        expect(top[1]).toBeCloseTo(0.25, 1);
      }
    }
    expect(sizes[1]! / sizes[0]!).toBeLessThan(0.75);
  });

  it('writes the distance as a level set, or a fog, that OpenVDB reads, inside too', async () => {
    for (const distance of ['level', 'fog'] as const) {
      const { parts } = await skin(planOf({ files: { distance } }), read);
      expect(parts[1]!.extension).toBe('vdb');
      const path = join(folder, `${distance}.vdb`);
      writeFileSync(path, parts[1]!.bytes);
      const script = [
        'import pyopenvdb as vdb, json, sys',
        `grids, _ = vdb.readAll(${JSON.stringify(path)})`,
        'g = grids[0]',
        'a = g.getConstAccessor()',
        't = g.transform',
        'at = lambda *p: a.getValue(tuple(int(round(v)) for v in t.worldToIndex(p)))',
        // z is up, units of a tenth: the middle, a place outside, the skin's place along x.
        'print(json.dumps([g.name, g.gridClass, at(0, 0, 0.5), at(0, 0, 8), at(2, 0, 0.5), at(1.5, 0, 0.5)]))',
      ].join('\n');
      const [name, kind, middle, outside, at, inside] = JSON.parse(
        execFileSync('/usr/bin/python3', ['-c', script], { encoding: 'utf8' }),
      ) as [string, string, number, number, number, number];
      if (distance === 'level') {
        expect([name, kind]).toEqual(['distance', 'level set']);
        expect(middle).toBeCloseTo(-0.64, 2);
        expect(outside).toBeCloseTo(0.64, 2);
        expect(Math.abs(at)).toBeLessThan(0.1);
        expect(inside).toBeCloseTo(-0.5, 1);
      } else {
        expect([name, kind]).toEqual(['density', 'fog volume']);
        expect([middle, outside, inside]).toEqual([1, 0, 1]);
      }
    }
  });

  it('makes fewer triangles: a share, or by an error, and stays closed', async () => {
    const all = await skin(planOf({}), read);
    const half = await skin(planOf({ polygons: { simplify: 'share', share: 0.4 } }), read);
    expect(half.report.triangles / all.report.triangles).toBeCloseTo(0.4, 1);
    expect(half.report.before).toBe(all.report.triangles);
    const error = await skin(planOf({ polygons: { simplify: 'error', error: 0.002 } }), read);
    expect(error.report.triangles).toBeLessThan(0.5 * all.report.triangles);
    const preview = readMeshPreview(error.parts[0]!.previews.find((p) => p.channel === 'mesh')!.bytes)!;
    // No vertex further than the error off the ball that the full one is.
    let worst = 0;
    for (let v = 0; v < preview.vertices; v++) {
      const p = [0, 1, 2].map((a) => preview.min[a]! + (preview.places[3 * v + a]! / 65535) * (preview.max[a]! - preview.min[a]!));
      worst = Math.max(worst, Math.abs(Math.hypot(p[0]!, p[1]! - 0.05, p[2]!) - 0.2));
    }
    expect(worst).toBeLessThan(0.006);
  });

  it('shows its skin and what lies outside of it', async () => {
    const spray = latticeParticles(
      S,
      [0.3, 0.3, 0.3],
      (x, y, z) => Math.hypot(x, y - 0.05, z) < 0.2,
      () => 0,
    );
    const plan = planOf({
      distance: { method: 'kernels', fewest: 0 },
      stack: [{ kind: 'erode', on: true, strength: 1.2, iterations: 1, spareThin: 0, spareWalls: 0 }],
      polygons: { keepVolume: false },
    });
    const { report, parts } = await skin(plan, () => columns(spray));
    const [mesh, outside] = ['mesh', 'outside'].map((c) => parts[0]!.previews.find((p) => p.channel === c)!.bytes);
    const preview = readMeshPreview(mesh!)!;
    expect(preview.triangles.length).toBe(3 * report.triangles);
    expect(preview.columns.map((c) => c.name)).toEqual(['speed', 'curvature']);
    expect(report.outside.count).toBeGreaterThan(20);
    expect(readPointsPreview(outside!)!.count).toBe(report.outside.count);
  });

  it('takes the frames beside by their velocities; at the ends of the range there is but one', async () => {
    const asked: number[] = [];
    const moving: PassJob<SurfaceBody>['points'] = (frame) => {
      asked.push(frame);
      if (frame < 1) throw new RuddleError('refused', 'none', { reason: 'input missing' });
      // One metre a second upwards.
      const own = columns();
      return {
        ...own,
        places: own.places.map((v, n) => (n % 4 === 1 ? v + (frame - 1) / 24 : v)),
        motions: own.motions.map((_v, n) => (n % 4 === 1 ? 1 : 0)),
      };
    };
    const { report } = await skin(planOf({ polygons: { steady: 0.5 } }), moving);
    expect(asked.sort()).toEqual([0, 1, 2]);
    // The same ball, moved by what its velocity says: the same place.
    expect(report.flicker).toBeLessThan(0.02);
  });

  it('leaves out particles without a radius and says how many; none at all is an empty mesh', async () => {
    const plan = planOf({ distance: { radius: 'own', radiusFactor: 1 } });
    const some: PassJob<SurfaceBody>['points'] = () => {
      const own = columns();
      return { ...own, more: { radius: Float32Array.from({ length: own.count }, (_v, n) => [0.62 * S, 0, NaN, -1][n % 4]!) } };
    };
    const { report } = await skin(plan, some);
    expect(report.without).toBe(ball.count - Math.ceil(ball.count / 4));
    expect(report.triangles).toBeGreaterThan(100);
    const nothing = await skin(plan, () => ({
      ...columns({ count: 0, places: new Float32Array(0), motions: new Float32Array(0), radii: null }),
      more: { radius: new Float32Array(0) },
    }));
    expect(nothing.report).toMatchObject({ particles: 0, triangles: 0 });
    expect(summarizePly(nothing.parts[0]!.bytes, 'empty').count).toBe(0);
    await expect(skin(plan, () => columns())).rejects.toMatchObject({ tag: 'file-invalid' });
  });

  it('says what cannot be before anything is run', () => {
    expect(() => planOf({ files: { attributes: 'colour' } })).toThrow(/no attribute "colour"; there are age, id, radius/);
    expect(() => planOf({ distance: { radius: 'own', radiusFrom: 'size' } })).toThrow(/no attribute "size"/);
    expect(() => planOf({ files: { attributes: 'vx' } })).toThrow(/"vx" is there in any case/);
    expect(() => planOf({ distance: { radius: 'metres', radiusMetres: 1 } })).toThrow(/beyond the reach/);
    expect(() => planOf({ waves: { height: 0.01, shortest: 0.01 } })).toThrow(/two voxels, 0\.032 m/);
  });

  it('refuses a skin of more memory than there is, with the voxel size that fits', async () => {
    await expect(skin(planOf({ distance: { voxelSize: 2e-5 } }), read)).rejects.toThrow(/would take about .* fits/);
  });

  it('carries waves where it is calm', async () => {
    const still: PassJob<SurfaceBody>['points'] = () =>
      columns(
        latticeParticles(
          S,
          [0.3, 0.3, 0.3],
          (_x, y) => y < 0,
          () => 0,
        ),
      );
    const spread = async (height: number): Promise<number> => {
      const { parts } = await skin(
        planOf({ waves: { height, longest: 0.3, shortest: 0.1, wind: 0 }, polygons: { keepVolume: false } }),
        still,
      );
      const preview = readMeshPreview(parts[0]!.previews[0]!.bytes)!;
      const tops: number[] = [];
      for (let v = 0; v < preview.vertices; v++) {
        const p = [0, 1, 2].map((a) => preview.min[a]! + (preview.places[3 * v + a]! / 65535) * (preview.max[a]! - preview.min[a]!));
        if (p[1]! > -0.1 && Math.abs(p[0]!) < 0.2 && Math.abs(p[2]!) < 0.2) tops.push(p[1]!);
      }
      const mean = tops.reduce((a, b) => a + b, 0) / tops.length;
      return Math.sqrt(tops.reduce((a, b) => a + (b - mean) ** 2, 0) / tops.length);
    };
    expect(await spread(0)).toBeLessThan(0.002);
    expect((await spread(0.01)) / 0.01).toBeGreaterThan(0.6);
    expect((await spread(0.01)) / 0.01).toBeLessThan(1.5);
  });
});
