import { describe, expect, it } from 'vitest';
import { mulberry32 } from '#core/math';
import { allClosed, allOpen, faultySides, latticeParticles, measureMesh, withTeam } from '#testing';
import { type SurfaceInput, type SurfaceOptions, NATURAL, Pool, makeSurface } from '.';

const S = 0.01;
const clock = (): number => performance.now() / 1000;
const base: SurfaceOptions = {
  distance: {
    method: 'averaged',
    voxelSize: 0.8 * S,
    spacing: S,
    radius: NATURAL * 3 * S,
    each: false,
    reach: 3 * S,
    joining: 2 * S,
    fewest: 10,
  },
  stack: [],
  thin: 2,
  keepVolume: true,
  walls: { meeting: 'contact', depth: 0 },
  cut: 'closed',
  steady: 0,
  crumb: 8,
  waves: null,
};
const FAR = { min: [-1, -1, -1], max: [1, 1, 1] } as const;
const input = (changes: Partial<SurfaceInput> & Pick<SurfaceInput, 'particles'>): SurfaceInput => ({
  columns: [],
  beside: [],
  surrounding: { solids: null, limit: FAR, walls: allOpen },
  time: 0,
  ...changes,
});
const chance = mulberry32(3);
const jitter = (): number => 0.6 * (chance() - 0.5);

/** A pool that fills a tray of 24 x 16 x 24 cm to 10 cm, particles half a spacing from the walls and so a bit before them. */
const TRAY = { min: [-0.12, -0.06, -0.12], max: [0.12, 0.1, 0.12] } as const;
const pool = latticeParticles(
  S,
  [0.12, 0.06, 0.12],
  (_x, y) => y < 0.04,
  () => 0,
);

describe('a skin', () => {
  it('of a pool in a tray ends at its walls, or as deep inside as is said, with nothing between', async () => {
    await withTeam(1, (team) => {
      const made = (['contact', 'inside', 'trimmed'] as const).map((meeting) =>
        makeSurface(
          new Pool(team),
          input({ particles: pool, surrounding: { solids: null, limit: TRAY, walls: { ...allClosed, ceiling: 'open' } } }),
          { ...base, walls: { meeting, depth: 1 } },
          clock,
        ),
      );
      const [contact, inside, trimmed] = made.map((m) => m.figures.contact);
      expect(contact?.vertices).toBeGreaterThan(1000);
      expect(contact?.gap.mean).toBeLessThan(0.02 * S);
      expect(contact?.gap.largest).toBeLessThan(0.4 * S);
      expect(contact?.overlap.largest).toBeLessThan(0.2 * S);
      expect(inside?.overlap.mean).toBeGreaterThan(0.7 * 0.8 * S);
      expect(inside?.gap.largest).toBeLessThan(0.1 * S);
      expect(trimmed?.overlap.largest).toBeLessThan(0.1 * S);
      for (const m of made) expect(faultySides(m.mesh.triangles)).toBe(0);
      // 24 x 10 x 24 cm of liquid.
      expect(made[0]!.figures.volume.skin / 0.00576).toBeCloseTo(1, 2);
    });
  });

  it('is left open at an open wall that cuts it, with waves on it too', async () => {
    await withTeam(1, (team) => {
      // The wall at the right, and the ceiling in the middle of the pool, are open.
      const limit = { min: [-0.12, -0.06, -0.12], max: [0.12, 0.02, 0.12] } as const;
      const surrounding = { solids: null, limit, walls: { ...allClosed, right: 'open', ceiling: 'open' } } as const;
      const waves = { height: 0.004, longest: 0.2, shortest: 0.05, wind: 0, towards: 0, depth: 1, churn: 1, seed: 1 };
      const skin = (cut: 'closed' | 'open', withWaves: boolean) =>
        makeSurface(
          new Pool(team),
          input({ particles: pool, surrounding }),
          { ...base, keepVolume: false, cut, waves: withWaves ? waves : null },
          clock,
        ).mesh;
      expect(faultySides(skin('closed', false).triangles)).toBe(0);
      const open = skin('open', false);
      expect(faultySides(open.triangles)).toBeGreaterThan(20);
      // Waves move vertices; what was cut away is the same.
      expect(skin('open', true).triangles).toEqual(open.triangles);
    });
  });

  it('is the same to the last bit on one thread and on two', async () => {
    const splash = latticeParticles(
      S,
      [0.1, 0.1, 0.1],
      (x, y, z) => Math.hypot(x, y, z) < 0.06 || (chance() < 0.02 && Math.hypot(x, y, z) < 0.1),
      jitter,
    );
    const stack = [
      { kind: 'gaussian', on: true, strength: 0.8, iterations: 2, spareThin: 0.5, spareWalls: 0 },
      { kind: 'median', on: true, strength: 1, iterations: 1, spareThin: 0, spareWalls: 0 },
      { kind: 'curvature', on: true, strength: 0.5, iterations: 3, spareThin: 0, spareWalls: 0 },
    ] as const;
    for (const method of ['averaged', 'kernels', 'balls'] as const) {
      const [one, two] = await Promise.all(
        [1, 2].map((threads) =>
          withTeam(
            threads,
            (team) =>
              makeSurface(new Pool(team), input({ particles: splash }), { ...base, stack, distance: { ...base.distance, method } }, clock)
                .mesh,
          ),
        ),
      );
      expect(one!.vertices).toBeGreaterThan(500);
      expect(two).toEqual(one);
    }
  });

  it('counts what pokes through, pieces and crumbs, and says which filter eats what is thin', async () => {
    await withTeam(1, (team) => {
      // A ball, a sheet of one particle's thickness beside it, and a drop of two particles.
      const sheet = latticeParticles(
        S,
        [0.12, 0.04, 0.12],
        (x, y, z) => Math.hypot(x, y, z) < 0.04 || (y > 0 && y < S && Math.hypot(x, z) < 0.11),
        () => 0,
      );
      const drop = [0.3, 0, 0, 0, 0.305, 0, 0, 0];
      const particles = {
        count: sheet.count + 2,
        places: Float32Array.from([...sheet.places, ...drop]),
        motions: new Float32Array(4 * sheet.count + 8),
        radii: null,
      };
      const bare = makeSurface(new Pool(team), input({ particles }), { ...base, keepVolume: false }, clock);
      expect(bare.figures.pieces).toEqual({ pieces: 2, crumbs: 1 });
      expect(bare.figures.thin.particles).toBeGreaterThan(200);
      expect(bare.figures.thin.kept / bare.figures.thin.particles).toBeGreaterThan(0.9);
      expect(bare.figures.eaten).toBeNull();
      const eats = { kind: 'open', on: true, strength: 1.5, iterations: 1, spareThin: 0, spareWalls: 0 } as const;
      const keeps = { ...eats, kind: 'median', strength: 0.2 } as const;
      const cut = makeSurface(new Pool(team), input({ particles }), { ...base, keepVolume: false, stack: [keeps, eats] }, clock);
      expect(cut.figures.thin.kept / cut.figures.thin.particles).toBeLessThan(0.5);
      expect(cut.figures.eaten?.filter).toBe(1);
      expect(cut.figures.eaten!.without).toBeGreaterThan(0.8 * cut.figures.thin.particles);
      expect(cut.figures.outside.count).toBe(cut.outside.length);
      expect(cut.outside.length).toBeGreaterThan(100);
      const spared = makeSurface(
        new Pool(team),
        input({ particles }),
        { ...base, keepVolume: false, stack: [keeps, { ...eats, spareThin: 1 }] },
        clock,
      );
      expect(spared.figures.thin.kept).toBeGreaterThan(2 * cut.figures.thin.kept);
    });
  });

  it('a rotating slotted disc of particles keeps its slot', async () => {
    await withTeam(1, (team) => {
      for (const turn of [0, 0.4, 1.1]) {
        const inside = (x: number, y: number, z: number): boolean => {
          const [u, v] = [x * Math.cos(turn) + z * Math.sin(turn), z * Math.cos(turn) - x * Math.sin(turn)];
          return Math.hypot(u, v) < 0.15 && Math.abs(y) < 0.04 && !(Math.abs(u) < 0.03 && v < 0.08);
        };
        const disc = latticeParticles(S, [0.16, 0.05, 0.16], inside, jitter);
        const { mesh, figures } = makeSurface(new Pool(team), input({ particles: disc }), base, clock);
        expect(figures.pieces.pieces).toBe(1);
        // In the slot there is nothing: no vertex within a third of its width of its middle plane.
        let within = 0;
        for (let v = 0; v < mesh.places.length; v += 3) {
          const [x, z] = [mesh.places[v]!, mesh.places[v + 2]!];
          const [u, w] = [x * Math.cos(turn) + z * Math.sin(turn), z * Math.cos(turn) - x * Math.sin(turn)];
          if (Math.abs(u) < 0.01 && w < 0.06 && w > -0.14) within++;
        }
        expect(within).toBe(0);
      }
    });
  });

  it('flows together where it is nearer than the joining distance, and not else', async () => {
    await withTeam(1, (team) => {
      for (const method of ['averaged', 'balls'] as const)
        for (const gap of [1, 5]) {
          const two = latticeParticles(
            S,
            [0.1, 0.03, 0.03],
            (x) => Math.abs(x) > (gap * S) / 2 && Math.abs(x) < 0.08,
            () => 0,
          );
          const { figures } = makeSurface(
            new Pool(team),
            input({ particles: two }),
            { ...base, keepVolume: false, distance: { ...base.distance, method, joining: 2.5 * S } },
            clock,
          );
          expect(figures.pieces.pieces, `${method} ${String(gap)}`).toBe(gap === 1 ? 1 : 2);
        }
    });
  });

  it('carries velocity and columns over, and radii of particles', async () => {
    await withTeam(1, (team) => {
      const turning = latticeParticles(
        S,
        [0.08, 0.08, 0.08],
        (x, y, z) => Math.hypot(x, y, z) < 0.07,
        () => 0,
        (x, _y, z) => [-z, 0, x],
      );
      const heights = Float32Array.from({ length: turning.count }, (_v, n) => turning.places[4 * n + 1]!);
      const { mesh } = makeSurface(
        new Pool(team),
        input({ particles: turning, columns: [{ name: 'height', values: heights }] }),
        base,
        clock,
      );
      let worst = 0;
      for (let v = 0; v < mesh.vertices; v++) {
        const [x, y, z] = [mesh.places[3 * v]!, mesh.places[3 * v + 1]!, mesh.places[3 * v + 2]!];
        worst = Math.max(
          worst,
          Math.hypot(mesh.velocities[3 * v]! + z, mesh.velocities[3 * v + 2]! - x),
          Math.abs(mesh.columns[0]!.values[v]! - y),
        );
      }
      expect(worst).toBeLessThan(1.2 * S);
      // A big drop among small ones, each by its own radius.
      const places = Float32Array.from([0, 0, 0, 0, 0.2, 0, 0, 0]);
      const drops = { count: 2, places, motions: new Float32Array(8), radii: Float32Array.from([0.03, 0.015]) };
      const skin = makeSurface(
        new Pool(team),
        input({ particles: drops }),
        { ...base, keepVolume: false, distance: { ...base.distance, voxelSize: 0.4 * S, method: 'balls', each: true, joining: null } },
        clock,
      );
      expect(measureMesh(skin.mesh).volume / ((4 / 3) * Math.PI * (0.03 ** 3 + 0.015 ** 3))).toBeCloseTo(1, 1);
    });
  });

  it('steadied by the frames beside it flickers less, and says by how much they differ', async () => {
    await withTeam(1, (team) => {
      const lay = (): SurfaceInput['particles'] => latticeParticles(S, [0.1, 0.03, 0.1], (x, _y, z) => Math.hypot(x, z) < 0.09, jitter);
      const frames = [lay(), lay(), lay(), lay()] as const;
      const skin = (n: 1 | 2, steady: number): Float32Array => {
        const { mesh, figures } = makeSurface(
          new Pool(team),
          input({ particles: frames[n], beside: [frames[(n - 1) as 0 | 1], frames[(n + 1) as 2 | 3]] }),
          { ...base, steady },
          clock,
        );
        expect(figures.flicker).toBeGreaterThan(0.02);
        return mesh.places;
      };
      /** Roughness of the top over time: how far the mean height lies apart where both have a vertex is too noisy; the spread of heights is not. */
      const spread = (p: Float32Array): number => {
        const tops: number[] = [];
        for (let v = 0; v < p.length; v += 3) if (p[v + 1]! > 0.02 && Math.hypot(p[v]!, p[v + 2]!) < 0.07) tops.push(p[v + 1]!);
        const mean = tops.reduce((a, b) => a + b, 0) / tops.length;
        return Math.sqrt(tops.reduce((a, b) => a + (b - mean) ** 2, 0) / tops.length);
      };
      expect(spread(skin(1, 0.6))).toBeLessThan(0.85 * spread(skin(1, 0)));
    });
  });

  it('of no particles is empty, of one it is a drop', async () => {
    await withTeam(1, (team) => {
      const none = { count: 0, places: new Float32Array(0), motions: new Float32Array(0), radii: null };
      const empty = makeSurface(new Pool(team), input({ particles: none }), base, clock);
      expect(empty.mesh.vertices).toBe(0);
      expect(empty.figures).toMatchObject({ particles: 0, triangles: 0, pieces: { pieces: 0 } });
      const one = { count: 1, places: Float32Array.from([0.013, 0.002, -0.4, 0]), motions: new Float32Array(4), radii: null };
      const drop = makeSurface(new Pool(team), input({ particles: one }), { ...base, keepVolume: false }, clock);
      expect(drop.figures.pieces.pieces).toBe(1);
      expect(faultySides(drop.mesh.triangles)).toBe(0);
    });
  });

  it('refuses a window that no memory holds, with the voxel size that fits', async () => {
    await withTeam(1, (team) => {
      const far = { count: 2, places: Float32Array.from([0, 0, 0, 0, 5000, 5000, 5000, 0]), motions: new Float32Array(8), radii: null };
      expect(() => makeSurface(new Pool(team), input({ particles: far }), base, clock)).toThrow(/fits/);
    });
  });
});
