import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type MeshShape, bodyDistance } from '#core/geometry';
import { ballSoup, boxSoup, sheetSoup, soup, type Soup, meshShape } from '#testing';
import { type Geometry, WindingTree, decodeGeometry, encodeGeometry, formsOf, isClosed, selfCrossings, tidy, voxelise } from '.';
import { sampler } from './sample';
import { boxOf } from './mesh';

const voxelised = (mesh: Soup, spacing: number, band = 0, most = 24e6): ReturnType<typeof voxelise> => {
  let tree: WindingTree | null = null;
  return voxelise(mesh, isClosed(mesh.triangles, mesh.positions.length / 3), () => (tree ??= new WindingTree(mesh)), {
    spacing,
    band,
    most,
  });
};
const distanceOf = (mesh: Soup, spacing: number, band = 0): ((x: number, y: number, z: number) => number) =>
  sampler(voxelised(mesh, spacing, band).grid, boxOf(mesh.positions));

const merged = (...parts: Soup[]): Soup => {
  let base = 0;
  const triangles = parts.flatMap((p) => {
    const t = [...p.triangles].map((v) => v + base);
    base += p.positions.length / 3;
    return t;
  });
  return soup(
    parts.flatMap((p) => [...p.positions]),
    triangles,
  );
};
const turnedOver = (m: Soup): Soup => soup([...m.positions], [...m.triangles].reverse());

const shapeOf = (mesh: Soup, change: Partial<MeshShape> = {}): MeshShape => meshShape('a', mesh, change);
const still = (mesh: Soup): Geometry => ({ kind: 'mesh', mesh, samples: null, rate: 0, count: 1 });

describe('the signed distance of a mesh', () => {
  it('is that of a ball: within the faceting near the surface, within 3 % of a voxel a voxel away, negative inside', () => {
    const d = distanceOf(ballSoup(1, 48), 0.05);
    let near = 0;
    let far = 0;
    for (let n = 0; n < 4000; n++) {
      const [u, v, r] = [((n * 0.618) % 1) * 2 - 1, n * 2.399963, 0.2 + ((n * 0.7548) % 1) * 1.0];
      const q = Math.sqrt(1 - u * u);
      const error = Math.abs(d(r * q * Math.cos(v), r * u, r * q * Math.sin(v)) - (r - 1));
      if (Math.abs(r - 1) < 0.04) near = Math.max(near, error);
      else far = Math.max(far, error / Math.abs(r - 1));
    }
    // Facets of a ball of 48 rings lie up to 1 - cos(pi / 96) x 2 inside it; trilinear samples add h^2 / 8 of the curvature, a little more at facets.
    expect(near).toBeLessThan(2.5e-3);
    expect(far).toBeLessThan(0.06);
  });
  it('of a box is exact at its faces, also where they lie between samples', () => {
    const d = distanceOf(boxSoup([-0.5, -0.33, -0.5], [0.5, 0.41, 0.5]), 0.1);
    for (const x of [-0.3, 0, 0.17]) {
      expect(d(x, 0.41, 0.1)).toBeCloseTo(0, 6);
      expect(d(x, 0.46, 0.1)).toBeCloseTo(0.05, 6);
      expect(d(x, -0.25, 0.1)).toBeCloseTo(-0.08, 6);
    }
    expect(d(0, 5, 0)).toBeCloseTo(4.59, 5);
  });
  it('closes a small hole and keeps the rest', () => {
    const ball = ballSoup(1, 24);
    // Twelve neighbouring triangles are missing.
    const holed = soup([...ball.positions], [...ball.triangles].slice(0, ball.triangles.length - 36));
    const d = distanceOf(holed, 0.06);
    const whole = distanceOf(ball, 0.06);
    for (const p of [
      [0, 0, 0],
      [0.5, 0.5, 0],
      [0.9, -0.2, 0.1],
      [-0.7, 0.1, 0.6],
    ] as const) {
      const [x, y, z] = p;
      expect(d(x, y, z)).toBeLessThan(0);
      expect(Math.abs(d(x, y, z) - whole(x, y, z))).toBeLessThan(0.08);
    }
    expect(d(1.2, 0.3, 0)).toBeGreaterThan(0);
  });
  it('of a sheet is how far it is, for a thin wall on both sides', () => {
    const sheet = sheetSoup(2, 6);
    const surface = distanceOf(sheet, 0.05, 0.2);
    const d = bodyDistance(surface, { kind: 'thin', thickness: 0.1, offset: 0 });
    for (const x of [-0.8, 0, 0.33]) {
      expect(d(x, 0, 0.2)).toBeLessThan(-0.02);
      expect(d(x, 0.1, 0.2)).toBeCloseTo(0.05, 3);
      expect(d(x, -0.1, 0.2)).toBeCloseTo(0.05, 3);
    }
  });
  it('of a hollow container leaves its inside open', () => {
    const surface = distanceOf(boxSoup([-1, -1, -1], [1, 1, 1]), 0.05, 0.25);
    const d = bodyDistance(surface, { kind: 'hollow', thickness: 0.2, offset: 0 });
    expect(d(0, 0, 0)).toBeGreaterThan(0.5);
    expect(d(0.9, 0, 0)).toBeCloseTo(-0.1, 2);
    expect(d(0.7, 0, 0)).toBeCloseTo(0.1, 2);
    expect(d(1.2, 0, 0)).toBeGreaterThan(0.1);
  });
  it('counted along rows has the signs that the tree gives, crossing pieces included', () => {
    const two = merged(ballSoup(0.7, 20), boxSoup([0.2, -0.3, -0.3], [1.1, 0.4, 0.4]));
    expect(isClosed(two.triangles, two.positions.length / 3)).toBe(true);
    expect(isClosed(two.triangles.subarray(3), two.positions.length / 3)).toBe(false);
    const tree = new WindingTree(two);
    const counted = voxelise(two, true, () => tree, { spacing: 0.05, band: 0 }).grid;
    const asked = voxelise(two, false, () => tree, { spacing: 0.05, band: 0 }).grid;
    // On the surface itself either sign is right.
    const differ = counted.values.filter((v, n) => v < 0 !== (asked.values[n] ?? 0) < 0 && Math.abs(v) > 1e-6).length;
    expect(differ).toBe(0);
    expect(counted.values.some((v) => v < 0)).toBe(true);
  });
  it('widens its spacing rather than take more samples than are allowed', () => {
    const ball = ballSoup(1);
    const { grid, fineness } = voxelised(ball, 0.01, 0, 50_000);
    expect(grid.values.length).toBeLessThanOrEqual(50_000);
    expect(fineness).toBeLessThan(0.5);
  });
});

describe('winding numbers', () => {
  it('are 1 inside and 0 outside, far groups as dipoles included', () => {
    const ball = ballSoup(1, 40);
    const tree = new WindingTree(ball);
    for (let n = 0; n < 300; n++) {
      const [u, v, r] = [((n * 0.618) % 1) * 2 - 1, n * 2.4, n % 2 ? 0.9 : 1.1];
      const q = Math.sqrt(1 - u * u);
      expect(tree.at(r * q * Math.cos(v), r * u, r * q * Math.sin(v))).toBeCloseTo(n % 2 ? 1 : 0, 1);
    }
  });
});

describe('tidying a mesh', () => {
  it('joins corners, drops what has no area and twins, and counts what is open', () => {
    const box = boxSoup([0, 0, 0], [1, 2, 3]);
    const unwelded = soup(
      [...box.triangles].flatMap((v) => [...box.positions.slice(3 * v, 3 * v + 3)]),
      [...box.triangles].map((_v, n) => n),
    );
    const extra = soup([...unwelded.positions], [...unwelded.triangles, 0, 0, 1, 0, 1, 2]);
    const { mesh, notes, from } = tidy(extra, 'box.obj');
    expect(notes).toMatchObject({
      vertices: 8,
      triangles: 12,
      openEdges: 0,
      crowdedEdges: 0,
      dropped: 2,
      turned: 0,
      pieces: 1,
      sheet: false,
    });
    expect(notes.volume).toBeCloseTo(6, 5);
    expect(from.length).toBe(8);
    expect(mesh.positions.length).toBe(24);
    expect(tidy(soup([...box.positions], [...box.triangles].slice(3)), 'x').notes.openEdges).toBe(3);
    expect(tidy(sheetSoup(1), 'x').notes).toMatchObject({ sheet: true, openEdges: 16 });
  });
  it('turns pieces that are inside out, and triangles that disagree', () => {
    const both = merged(boxSoup([0, 0, 0], [1, 1, 1]), turnedOver(boxSoup([3, 0, 0], [4, 1, 1])));
    const { notes, mesh } = tidy(both, 'x');
    expect(notes).toMatchObject({ pieces: 2, turned: 12 });
    expect(notes.volume).toBeCloseTo(2, 5);
    expect(new WindingTree(mesh).at(3.5, 0.5, 0.5)).toBeCloseTo(1, 2);
    const mixed = boxSoup([0, 0, 0], [1, 1, 1]);
    mixed.triangles.set([mixed.triangles[1] ?? 0, mixed.triangles[0] ?? 0], 0);
    expect(tidy(mixed, 'x').notes.turned).toBe(1);
  });
  it('refuses what is no mesh, with the reason', () => {
    const broken =
      (p: number[], t: number[]): (() => unknown) =>
      () =>
        tidy(soup(p, t), 'pot.obj');
    expect(broken([], [])).toThrow(/pot.obj: it has no triangles/);
    expect(broken([0, 0, 0, 1, NaN, 0, 0, 1, 0], [0, 1, 2])).toThrow(/vertex 1 is not a number/);
    expect(broken([0, 0, 0, 1, 0, 0, 0, 1, 0], [0, 1, 7])).toThrow(/does not exist/);
    expect(broken([1, 1, 1, 1, 1, 1, 1, 1, 1], [0, 1, 2])).toThrow(/one point/);
    expect(broken([0, 0, 0, 1, 0, 0, 2, 0, 0], [0, 1, 2])).toThrow(/has an area/);
  });
  it('finds pieces that cross each other', () => {
    expect(selfCrossings(boxSoup([0, 0, 0], [1, 1, 1]))).toBe(0);
    expect(selfCrossings(merged(boxSoup([0, 0, 0], [1, 1, 1]), boxSoup([0.5, 0.4, 0.3], [1.5, 1.4, 1.3])))).toBeGreaterThan(3);
  });
  it('makes something finite of any triangles, or says why not', () => {
    const coordinate = fc.oneof(fc.double({ min: -10, max: 10, noNaN: true }), fc.constantFrom(0, 1, NaN, Infinity));
    fc.assert(
      fc.property(fc.array(coordinate, { minLength: 9, maxLength: 60 }), fc.array(fc.nat(12), { minLength: 3, maxLength: 60 }), (p, t) => {
        const given = soup(p.slice(0, p.length - (p.length % 3)), t.slice(0, t.length - (t.length % 3)));
        let mesh: Soup;
        try {
          mesh = tidy(given, 'x').mesh;
        } catch (error) {
          expect(error).toMatchObject({ tag: 'file-invalid' });
          return;
        }
        const { grid } = voxelised(mesh, 0.5, 0, 40_000);
        expect(grid.values.every(Number.isFinite)).toBe(true);
      }),
      { numRuns: 120 },
    );
  });
});

describe('forms', () => {
  it('stand where their shape stands, turned and scaled', () => {
    const box = boxSoup([-1, -2, -3], [1, 2, 3]);
    const shape = shapeOf(box, { centre: [10, 0, 0], rotation: [0, 90, 0], scale: 0.5 });
    const form = formsOf(new Map([['a', still(box)]]))(shape, 0.1, 0);
    const d = form.distance({ shape, animation: 0 });
    // Half extents 0.5, 1, 1.5; about the upright axis x and z change places.
    expect(d(11.5, 0, 0)).toBeCloseTo(0, 4);
    expect(d(10, 1, 0)).toBeCloseTo(0, 4);
    expect(d(10, 0, 0.6)).toBeCloseTo(0.1, 4);
    const { min, max } = form.bounds({ shape, animation: 0 });
    expect([...min, ...max].map((v) => Math.round(v * 1000) / 1000)).toEqual([8.5, -1, -0.5, 11.5, 1, 0.5]);
  });
  it('of an animated mesh follow it: distance, bounds, velocity, travel', () => {
    const box = boxSoup([-1, -1, -1], [1, 1, 1]);
    // In one second it grows to twice its size along x.
    const grown = box.positions.map((v, n) => (n % 3 === 0 ? 2 * v : v));
    const geometry: Geometry = { kind: 'mesh', mesh: box, samples: Float32Array.from([...box.positions, ...grown]), rate: 1, count: 2 };
    const shape = shapeOf(box, { seconds: 1 });
    const form = formsOf(new Map([['a', geometry]]))(shape, 0.1, 0);
    expect(form.distance({ shape, animation: 0.5 })(1.5, 0, 0)).toBeCloseTo(0, 4);
    expect(form.bounds({ shape, animation: 5 }).max[0]).toBeCloseTo(2, 5);
    expect(form.travel({ shape, animation: 0 }, { shape, animation: 0.5 })).toBeCloseTo(0.5, 5);
    const v = form.velocity({ shape, animation: 0.5 }, { shape, animation: 0.4 }, 0.1)(1.5, 0.2, 0.1);
    expect(v[0]).toBeCloseTo(-1, 3);
    expect(Math.abs(v[1]) + Math.abs(v[2])).toBeLessThan(1e-3);
  });
  it('say when their geometry is missing', () => {
    const box = boxSoup([0, 0, 0], [1, 1, 1]);
    expect(() => formsOf(new Map())(shapeOf(box), 0.1, 0)).toThrow(/is missing/);
  });
});

describe('geometry as bytes', () => {
  it('comes back as it was, and says when it is broken', () => {
    const box = boxSoup([0, 0, 0], [1, 2, 3]);
    const moving: Geometry = {
      kind: 'mesh',
      mesh: box,
      samples: Float32Array.from([...box.positions, ...box.positions]),
      rate: 48,
      count: 2,
    };
    for (const geometry of [still(box), moving]) {
      const bytes = encodeGeometry(geometry);
      expect(decodeGeometry(bytes, 'x')).toEqual(geometry.samples ? geometry : { ...geometry, rate: geometry.rate });
      expect(() => decodeGeometry(bytes.subarray(0, bytes.length - 5), 'x')).toThrow(/ends too early/);
    }
    // As a view into something larger that is not aligned: what reading a file gives.
    const whole = encodeGeometry(still(box));
    const within = Buffer.concat([Buffer.from('abc'), whole]).subarray(3);
    expect(decodeGeometry(within, 'x')).toEqual(still(box));
    expect(() => decodeGeometry(new Uint8Array(40), 'x')).toThrow(/not geometry/);
    const grid = { origin: [0, 0, 0], spacing: 0.5, size: [2, 1, 1], values: Float32Array.from([1, -1]) } as const;
    expect(decodeGeometry(encodeGeometry({ kind: 'distance', grid }), 'x')).toEqual({ kind: 'distance', grid });
  });
});
