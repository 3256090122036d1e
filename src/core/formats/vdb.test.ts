import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { isRuddleError } from '#core/errors';
import type { TileGrid } from '#core/grid';
import { mulberry32 } from '#core/math';
import {
  bloscCompress,
  bloscDecompress,
  fromHalf,
  lz4Compress,
  lz4Decompress,
  readFrameFile,
  readVdb,
  summarize,
  toHalf,
  writeFrameFile,
  writeVdb,
} from '.';

let folder = '';
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'ruddle-vdb-'));
});
afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
});

/** Runs Python with the real library; its answer as JSON. */
const python = (code: string): unknown =>
  JSON.parse(
    execFileSync('/usr/bin/python3', ['-c', `import pyopenvdb as vdb, json, numpy as np\n${code}`], { cwd: folder, encoding: 'utf8' }),
  );

function grid(name: string, components: 1 | 3, tiles: number, seed: number): TileGrid {
  const random = mulberry32(seed);
  const origins = new Int32Array(tiles * 3);
  const seen = new Set<string>();
  for (let t = 0; t < tiles;) {
    const o = [0, 1, 2].map(() => Math.floor((random() - 0.5) * 60) * 8);
    // A few far away, so that several roots and inner nodes are made.
    if (t === 1) o[0] = 8192;
    if (seen.has(o.join())) continue;
    seen.add(o.join());
    origins.set(o, 3 * t++);
  }
  const values = new Float32Array(tiles * 512 * components);
  const masks = new Uint8Array(tiles * 64);
  for (let n = 0; n < tiles * 512; n++) {
    // Whole tiles, single voxels and everything between.
    const share = Math.floor(n / 512) % 3 === 0 ? 1 : Math.floor(n / 512) % 3 === 1 ? 0.3 : 0.004;
    if (random() > share) continue;
    masks[n >> 3] = masks[n >> 3]! | (1 << (n & 7));
    for (let c = 0; c < components; c++) values[n * components + c] = (random() - 0.3) * 4;
  }
  return { name, components, background: new Array<number>(components).fill(0), origins, values, masks };
}

const transform = { scale: [0.1, 0.1, 0.1], translation: [0.05, 0.05, 0.05] } as const;
const uuid = '01234567-89ab-4cde-8f01-23456789abcd';

function activeSum(g: TileGrid, half: boolean): { count: number; sum: number[] } {
  let count = 0;
  const sum = new Array<number>(g.components).fill(0);
  for (let n = 0; n < g.masks.length * 8; n++) {
    if (!(g.masks[n >> 3]! & (1 << (n & 7)))) continue;
    count++;
    for (let c = 0; c < g.components; c++) {
      const v = g.values[n * g.components + c]!;
      sum[c] = sum[c]! + (half ? fromHalf(toHalf(v)) : v);
    }
  }
  return { count, sum };
}

describe('our files, read by the OpenVDB library', () => {
  for (const precision of ['half', 'full'] as const) {
    for (const compression of ['blosc', 'zip', 'none'] as const) {
      it(`${precision}, ${compression}: counts, sums and transform of every channel`, () => {
        // In the order of their names, as the library lists them.
        const grids = [grid('density', 1, 12, 5), grid('nothing', 1, 0, 1), grid('vel', 3, 12, 6)];
        const file = join(folder, 'ours.vdb');
        const bytes = writeVdb(
          grids.map((g) => ({ grid: g, class: g.components === 3 ? ('unknown' as const) : ('fog volume' as const), transform })),
          { precision, compression, uuid, creator: 'test' },
        );
        writeFileSync(file, bytes);
        const read = python(`
out = []
for g in vdb.readAll('ours.vdb')[0]:
    total = np.zeros(3 if 'Vec3' in type(g).__name__ else 1)
    for item in g.iterOnValues():
        total += np.array(item.value) * item.count
    out.append(dict(name=g.name, count=g.activeVoxelCount(), sum=list(total), size=list(g.transform.voxelSize()),
        origin=list(g.transform.indexToWorld((0, 0, 0))), cls=str(g.gridClass), half=g.saveFloatAsHalf))
print(json.dumps(out))`) as { name: string; count: number; sum: number[]; size: number[]; origin: number[]; cls: string; half: boolean }[];
        expect(read.map((r) => r.name)).toEqual(['density', 'nothing', 'vel']);
        read.forEach((r, n) => {
          const own = activeSum(grids[n]!, precision === 'half');
          expect(r.count).toBe(own.count);
          own.sum.forEach((s, c) => {
            expect(r.sum[c]).toBeCloseTo(s, 3);
          });
          for (const a of [0, 1, 2]) {
            expect(r.size[a]).toBeCloseTo(0.1, 9);
            expect(r.origin[a]).toBeCloseTo(0.05, 9);
          }
          expect(r.half).toBe(precision === 'half');
        });
        expect(read[0]!.cls).toContain('fog');
        // And by our own reader, voxel for voxel.
        const back = readVdb(bytes);
        grids.forEach((g, n) => {
          const own = activeSum(g, precision === 'half');
          const s = summarize(back.grids[n]!);
          expect(s.activeVoxels).toBe(own.count);
          own.sum.forEach((v, c) => {
            expect(s.sum[c]).toBeCloseTo(v, 6);
          });
        });
      });
    }
  }

  it('a frame file: scene units, velocities too, the chosen axis up', () => {
    const base = grid('density', 1, 1, 3);
    const one: TileGrid = { ...base, origins: Int32Array.from([8, 16, -8]), values: new Float32Array(512), masks: new Uint8Array(64) };
    one.values[(1 << 6) | (2 << 3) | 3] = 2;
    one.masks[((1 << 6) | (2 << 3) | 3) >> 3] = 1 << 3;
    const vel: TileGrid = { ...one, name: 'vel', components: 3, background: [1, 0, 2], values: new Float32Array(1536) };
    vel.values.set([3, 4, 5], ((1 << 6) | (2 << 3) | 3) * 3);
    const write = (upAxis: 'y' | 'z'): void => {
      writeFileSync(
        join(folder, 'frame.vdb'),
        writeFrameFile([one, vel], {
          voxelSize: 0.2,
          metresPerUnit: 0.5,
          timeScale: 3,
          upAxis,
          precision: 'full',
          compression: 'none',
          uuid,
        }),
      );
    };
    const look = (): unknown =>
      python(`
d, v = [g for g in vdb.readAll('frame.vdb')[0]]
i = [x for x in d.iterOnValues()][0]
w = [x for x in v.iterOnValues()][0]
print(json.dumps([list(d.transform.indexToWorld(i.min)), list(w.value), list(v.background)]))`);
    // Voxel (9, 18, -5) of 0.2 m: its centre at (1.9, 3.7, -0.9) m, in units of half a metre.
    write('y');
    const close = (got: unknown, want: number[][]): void => {
      (got as number[][]).forEach((list, n) => {
        list.forEach((x, a) => {
          expect(x).toBeCloseTo(want[n]![a]!, 5);
        });
      });
    };
    close(look(), [
      [3.8, 7.4, -1.8],
      [18, 24, 30],
      [6, 0, 12],
    ]);
    write('z');
    close(look(), [
      [3.8, 1.8, 7.4],
      [18, -30, 24],
      [6, -12, 0],
    ]);
  });

  it('a signed distance is a level set, its lengths in scene units, and comes back in metres', () => {
    const box = grid('distance', 1, 1, 3);
    const distance: TileGrid = { ...box, background: [0.3], values: box.values.map((v) => v * 0.1) };
    const o = { metresPerUnit: 0.5, timeScale: 3, upAxis: 'y' } as const;
    const bytes = writeFrameFile([distance], { ...o, voxelSize: 0.2, precision: 'full', compression: 'none', uuid });
    writeFileSync(join(folder, 'distance.vdb'), bytes);
    const [kind, background, sum] = python(`
d = vdb.readAll('distance.vdb')[0][0]
print(json.dumps([str(d.gridClass), d.background, sum(i.value * i.count for i in d.iterOnValues())]))`) as [string, number, number];
    expect(kind).toContain('level set');
    expect(background).toBeCloseTo(0.6, 6);
    expect(sum).toBeCloseTo(2 * (activeSum(distance, false).sum[0] ?? 0), 3);
    const back = readFrameFile(bytes, o).grids[0]!;
    expect(activeSum(back, false).sum[0]).toBeCloseTo(activeSum(distance, false).sum[0] ?? 0, 3);
    expect(back.background[0]).toBeCloseTo(0.3, 6);
  });
});

describe("the library's files, read by ours", () => {
  it('fog volumes, level sets and vectors, with their constant tiles', () => {
    const told = python(`
out = []
fog = vdb.FloatGrid(); fog.name = 'fog'; fog.gridClass = vdb.GridClass.FOG_VOLUME
fog.fill((-20, 3, 5), (40, 30, 26), 0.75)
fog.fill((3, 3, 5), (9, 9, 9), 2.5)
ball = vdb.createLevelSetSphere(radius=11.0, center=(3, -4, 9), voxelSize=0.5); ball.name = 'ball'
vel = vdb.Vec3SGrid(); vel.name = 'vel'; vel.fill((0, 0, 0), (10, 10, 10), (1, 2, 3))
half = vdb.FloatGrid(); half.name = 'half'; half.saveFloatAsHalf = True; half.fill((0, 0, 0), (20, 6, 9), 0.3)
lone = vdb.FloatGrid(); lone.name = 'lone'; lone.fill((8, -8, 16), (15, -1, 23), 4.0)
mask = vdb.BoolGrid(); mask.name = 'mask'; mask.fill((0, 0, 0), (3, 3, 3), True)
vdb.write('theirs.vdb', grids=[fog, ball, vel, half, lone, mask])
for g in [fog, ball, vel, half, lone]:
    total = np.zeros(3 if g.name == 'vel' else 1)
    for item in g.iterOnValues():
        total += np.array(item.value) * item.count
    low, high = g.evalActiveVoxelBoundingBox()
    out.append(dict(count=g.activeVoxelCount(), sum=list(total), size=g.transform.voxelSize()[0], box=dict(min=list(low), max=list(high))))
print(json.dumps(out))`) as { count: number; sum: number[]; size: number; box: object }[];
    const file = readVdb(readFileSync(join(folder, 'theirs.vdb')));
    const own = file.grids.map(summarize);
    expect(own.map((g) => g.name).sort()).toEqual(['ball', 'fog', 'half', 'lone', 'mask', 'vel']);
    ['fog', 'ball', 'vel', 'half', 'lone'].forEach((name, n) => {
      const mine = own.find((g) => g.name === name)!;
      expect(mine.activeVoxels).toBe(told[n]!.count);
      told[n]!.sum.forEach((s, c) => {
        // The library sums the unrounded 0.3; a half float holds 0.30004883.
        expect(mine.sum[c]! / s).toBeCloseTo(1, name === 'half' ? 3 : 5);
      });
      expect(mine.voxelSize?.[0]).toBeCloseTo(told[n]!.size, 9);
      // Constant tiles count: the lone cube of eight voxels is nothing else.
      expect(mine.box).toEqual(told[n]!.box);
    });
    expect(file.grids.find((g) => g.name === 'lone')!.constantTiles).toHaveLength(1);
    // A type that is not read is not called empty.
    expect(own.find((g) => g.name === 'mask')).toMatchObject({ read: false, box: null });
    expect(own.find((g) => g.name === 'ball')!.class).toBe('level set');
  });
});

describe('damaged files', () => {
  it('cut off or changed anywhere: an error that says so, never nonsense or a hang', () => {
    const bytes = writeVdb([{ grid: grid('density', 1, 3, 9), class: 'fog volume', transform }], {
      precision: 'half',
      compression: 'blosc',
      uuid,
      creator: '',
    });
    const random = mulberry32(4);
    for (let n = 0; n < 60; n++) {
      const cut = bytes.slice(0, Math.floor(random() * (bytes.length - 1)));
      expect(() => readVdb(cut)).toThrow(expect.objectContaining({ tag: 'file-invalid' }) as Error);
    }
    for (let n = 0; n < 60; n++) {
      const changed = bytes.slice();
      changed[Math.floor(random() * changed.length)]! ^= 1 << Math.floor(random() * 8);
      try {
        readVdb(changed);
      } catch (error) {
        expect(isRuddleError(error, 'file-invalid')).toBe(true);
      }
    }
    expect(() => readVdb(new Uint8Array(200))).toThrow(/magic number/);
  });
});

describe('building blocks', () => {
  it('LZ4 and Blosc give back what went in', () => {
    const data = fc.oneof(
      fc.uint8Array({ maxLength: 4000 }),
      fc
        .tuple(fc.uint8Array({ minLength: 1, maxLength: 40 }), fc.integer({ min: 1, max: 200 }))
        .map(([a, n]) => Uint8Array.from(Array.from({ length: n }, () => [...a]).flat())),
    );
    fc.assert(
      fc.property(data, fc.constantFrom(2, 4, 6, 12), (bytes, size) => {
        const room = new Uint8Array(bytes.length * 2 + 64);
        const n = lz4Compress(bytes, room);
        const out = new Uint8Array(bytes.length);
        lz4Decompress(room.subarray(0, n), out);
        expect(out).toEqual(bytes);
        const packed = bloscCompress(bytes, size);
        if (packed) {
          expect(packed.length).toBeLessThan(bytes.length);
          expect(bloscDecompress(packed, bytes.length)).toEqual(bytes);
        }
      }),
      { numRuns: 200, seed: 11 },
    );
  });
  it('half floats: every one of the 65536 comes back, and rounding is to nearest even', () => {
    for (let h = 0; h < 65536; h++) {
      const v = fromHalf(h);
      if (Number.isNaN(v)) continue;
      expect(toHalf(v)).toBe(h);
    }
    expect(fromHalf(toHalf(1 + 2 ** -11))).toBe(1);
    expect(fromHalf(toHalf(1 + 3 * 2 ** -11))).toBe(1 + 2 ** -9);
    expect(fromHalf(toHalf(65520))).toBe(Infinity);
    expect(fromHalf(toHalf(2 ** -25))).toBe(0);
  });

  it.each([
    ['y', 'full'],
    ['z', 'full'],
    ['z', 'half'],
  ] as const)('a frame file read again is what was written: %s up, %s floats; colours are no directions', (upAxis, precision) => {
    const o = { voxelSize: 0.2, metresPerUnit: 0.5, timeScale: 3, upAxis, precision, compression: 'blosc', uuid } as const;
    const base = grid('density', 1, 3, 5);
    const vel = { ...grid('vel', 3, 3, 6), background: [1, 0, -2] };
    const colour = grid('colour', 3, 2, 7);
    const read = readFrameFile(writeFrameFile([base, vel, colour], o), o);
    expect(read.voxelSize).toBeCloseTo(0.2, 9);
    expect(read.grids.map((g) => g.name)).toEqual(['density', 'vel', 'colour']);
    for (const [n, wanted] of [base, vel, colour].entries()) {
      const got = read.grids[n]!;
      wanted.background.forEach((b, a) => expect(got.background[a]).toBeCloseTo(b, 5));
      // Tiles are in the order of the file: by where they lie.
      const at = (g: TileGrid, t: number): string => [...g.origins.subarray(3 * t, 3 * t + 3)].join();
      const place = new Map(Array.from({ length: got.origins.length / 3 }, (_v, t) => [at(got, t), t]));
      const c = wanted.components;
      for (let t = 0; t < wanted.origins.length / 3; t++) {
        const to = place.get(at(wanted, t))!;
        expect([...got.masks.subarray(64 * to, 64 * to + 64)]).toEqual([...wanted.masks.subarray(64 * t, 64 * t + 64)]);
        for (let m = 0; m < 512 * c; m++) {
          const voxel = Math.floor(m / c);
          if (!(wanted.masks[64 * t + (voxel >> 3)]! & (1 << (voxel & 7)))) continue;
          expect(Math.abs(got.values[512 * c * to + m]! - wanted.values[512 * c * t + m]!)).toBeLessThan(
            precision === 'full' ? 1e-5 : 4e-3,
          );
        }
      }
    }
    // Only what is wanted is read.
    expect(readFrameFile(writeFrameFile([base, vel], o), o, 'x', (name) => name === 'vel').grids.map((g) => g.name)).toEqual(['vel']);
  });
});
