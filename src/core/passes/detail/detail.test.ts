import { afterEach, describe, expect, it } from 'vitest';
import { gridOf, withTeam } from '#testing';
import { RECORD_WORDS } from '#core/grid';
import { fft3, wavesOf } from '#core/math';
import { detailSettingsSchema, parseShotFile, solveOf } from '#core/shot';
import { type Team, createTeam } from '#kernels';
import { detailDefinition } from '.';
import { collectDetail } from './collect';
import { Detail } from './detail';
import type { BasePart } from '../upscale';

const H = 0.1;
const teams: Team[] = [];
const team = (threads = 1): Team => {
  const made = createTeam({ threads });
  teams.push(made);
  return made;
};
afterEach(() => {
  for (const t of teams.splice(0)) t.stop();
});
const noForms = (): never => {
  throw new Error('no meshes here');
};

type Formula<T> = (x: number, y: number, z: number) => T;
type Triple = readonly [number, number, number];
const base = (
  side: number,
  vel: Formula<Triple>,
  density: Formula<number>,
  more: Record<string, Formula<number | Triple>> = {},
): BasePart[] => {
  const box = { low: [0, 0, 0], high: [side, side, side], h: H };
  return [
    {
      voxelSize: H,
      grids: [gridOf('vel', vel, box), gridOf('density', density, box), ...Object.entries(more).map(([name, f]) => gridOf(name, f, box))],
    },
  ];
};

function bodyOf(side: number, own: object, scene: object = {}, channels = ['density', 'vel']) {
  const limit = { min: [0, 0, 0], max: [side * H, side * H, side * H] };
  const text = JSON.stringify({
    ruddle: 1,
    name: 'Made up',
    variants: [
      { name: 'One', settings: { sources: [{ shape: { kind: 'ball' } }], bounds: { limit, walls: { floor: 'open' } }, ...scene } },
    ],
  });
  const shot = parseShotFile(text, 'made-up.json');
  const file = { metresPerUnit: 1, upAxis: 'y' as const, timeScale: 1 };
  const input = { output: 'vdb' as const, voxelSizes: [H], channels, file, frames: { first: 1, last: 9, every: 1 } };
  return detailDefinition.resolve(
    { rung: 'final', beside: {}, shot, solve: solveOf(shot.variants[0]!.settings), input },
    detailSettingsSchema.parse(own),
  ).body;
}

/** Eddies of about four voxels. */
const eddies: Formula<Triple> = (x, y, z) => [
  Math.sin(15 * y) + Math.cos(13 * z),
  Math.sin(14 * z) + Math.cos(16 * x),
  Math.sin(13 * x) + Math.cos(15 * y),
];
const still: Formula<Triple> = () => [0, 0, 0];
const blob =
  (cx: number, cy: number, cz: number, r = 0.7): Formula<number> =>
  (x, y, z) =>
    Math.max(0, 1 - ((x - cx) ** 2 + (y - cy) ** 2 + (z - cz) ** 2) / r ** 2);

/** Faces of the fine grid as they are, by world voxel, and which voxels are fluid in active tiles. */
function facesOf(detail: Detail, t: Team) {
  const { bounds, fields } = detail.grid;
  const level = bounds.hierarchy.finest;
  const [u, v, w] = [fields.u, fields.v, fields.w].map((p) => t.floats(p, bounds.size)) as [Float32Array, Float32Array, Float32Array];
  const status = t.bytes(level.status, bounds.size);
  const records = t.words(level.records, level.count * RECORD_WORDS);
  const cells: number[] = [];
  for (let r = 0; r < records.length; r += RECORD_WORDS)
    for (let n = 0; n < 512; n++) cells.push(records[r]! + (n >> 6) * level.sp + ((n >> 3) & 7) * level.sx + (n & 7));
  return { u, v, w, status, cells, sx: level.sx, sp: level.sp };
}

describe('what a detail pass adds', () => {
  /** Two frames of a base, with what is added and without it: the difference of the faces is what was added. */
  const added = (own: object, { scene = {}, side = 32, parts = base(side, eddies, blob(1.6, 1.6, 1.6, 1.2)) } = {}) => {
    const faces = (more: object) => {
      const t = team();
      const detail = new Detail(bodyOf(side, { factor: 2, ...own, ...more }, scene), t, noForms, null);
      detail.begin(parts, 1);
      detail.step(parts, 2);
      const all = facesOf(detail, t);
      return { ...all, u: all.u.slice(), v: all.v.slice(), w: all.w.slice(), window: detail.grid.bounds.window };
    };
    const [whole, plain] = [faces({}), faces({ strength: 0 })];
    for (const name of ['u', 'v', 'w'] as const) whole[name].forEach((x, n) => (whole[name][n] = x - plain[name][n]!));
    return whole;
  };
  const divergence = ({ u, v, w, cells, sx, sp }: ReturnType<typeof added>): { worst: number; fastest: number } => {
    let [worst, fastest] = [0, 0];
    for (const at of cells) {
      worst = Math.max(worst, Math.abs(u[at + 1]! - u[at]! + v[at + sx]! - v[at]! + w[at + sp]! - w[at]!));
      fastest = Math.max(fastest, Math.abs(u[at]!), Math.abs(v[at]!), Math.abs(w[at]!));
    }
    return { worst, fastest };
  };

  it('has no divergence, though its strength differs from place to place and the active tiles end', () => {
    const { worst, fastest } = divergence(added({}));
    expect(fastest).toBeGreaterThan(0.3);
    expect(worst / fastest).toBeLessThan(1e-5);
  });

  it('has none beside a solid either, nothing of it goes through, and nothing is in it', () => {
    const solids = [{ shape: { kind: 'box', centre: [1.6, 1.3, 1.6], size: [0.8, 0.6, 0.8] } }];
    const field = added({}, { scene: { solids } });
    const { worst, fastest } = divergence(field);
    expect(worst / fastest).toBeLessThan(1e-5);
    const { u, v, w, status, cells, sx, sp } = field;
    const solid = cells.filter((at) => status[at] === 0);
    expect(solid.length).toBeGreaterThan(500);
    for (const at of solid)
      expect([u[at], u[at + 1], v[at], v[at + sx], w[at], w[at + sp]].map((x) => Math.abs(x!))).toEqual([0, 0, 0, 0, 0, 0]);
  });

  it('leaves nothing in a solid', () => {
    const t = team();
    const solids = [{ shape: { kind: 'box', centre: [1.6, 1.3, 1.6], size: [0.8, 0.6, 0.8] } }];
    const body = bodyOf(32, { factor: 2 }, { solids });
    const detail = new Detail(body, t, noForms, null);
    for (const frame of [1, 2, 3]) {
      const parts = base(32, eddies, blob(1.6, 1.6, 1.6, 1.2));
      if (frame === 1) detail.begin(parts, frame);
      else detail.step(parts, frame);
    }
    const [density] = collectDetail(t, detail, ['density']);
    let [inside, all] = [0, 0];
    for (let n = 0; n < density!.masks.length * 8; n++) {
      if (!(density!.masks[n >> 3]! & (1 << (n & 7)))) continue;
      all++;
      const o = density!.origins.slice(3 * (n >> 9), 3 * (n >> 9) + 3);
      const [x, y, z] = [o[0]! + ((n >> 6) & 7), o[1]! + ((n >> 3) & 7), o[2]! + (n & 7)].map((i) => (i + 0.5) * (H / 2)) as [
        number,
        number,
        number,
      ];
      if (Math.max(Math.abs(x - 1.6) - 0.4, Math.abs(y - 1.3) - 0.3, Math.abs(z - 1.6) - 0.4) < -0.05) inside++;
    }
    expect(all).toBeGreaterThan(10_000);
    expect(inside).toBe(0);
  });

  it('with one strength everywhere and fresh coordinates lies in its band: under 2 % of its energy below it', () => {
    // One octave of 4 to 2 base voxels repeats after 32 of them, which are 64 fine ones.
    // Too slow to draw the coordinates out in a frame.
    const slow: Formula<Triple> = (x, y, z) => eddies(x, y, z).map((n) => 0.01 * n) as unknown as Triple;
    const own = { largest: 4, smallest: 2, where: 'even', change: 1e3, stretch: 20 };
    const { u, v, w, sx, sp, window } = added(own, { side: 48, parts: base(48, slow, () => 1) });
    const [nx, ny, nz] = [64, 64, 64];
    let [below, within, above] = [0, 0, 0];
    for (const field of [u, v, w]) {
      const data = new Float64Array(2 * nx * ny * nz);
      for (let k = 0, n = 0; k < nz; k++)
        for (let j = 0; j < ny; j++)
          for (let i = 0; i < nx; i++, n += 2)
            data[n] = field[sp + sx + 4 + (16 - window.oz + k) * sp + (16 - window.oy + j) * sx + 16 - window.ox + i]!;
      fft3(data, [nx, ny, nz], false);
      for (let n = 0; n < nx * ny * nz; n++) {
        const k = Math.hypot(wavesOf(n % nx, nx), wavesOf(Math.floor(n / nx) % ny, ny), wavesOf(Math.floor(n / nx / ny), nz));
        const e = data[2 * n]! ** 2 + data[2 * n + 1]! ** 2;
        if (k === 0) continue;
        if (k < 8) below += e;
        else if (k <= 16) within += e;
        else above += e;
      }
    }
    expect(within).toBeGreaterThan(0);
    expect(below / (below + within + above)).toBeLessThan(0.02);
    expect(above / (below + within + above)).toBeLessThan(0.05);
  });
});

describe('the matter of a detail pass', () => {
  /** A blob that goes along x, as the base has it at each frame. */
  const going = (frame: number) => base(40, () => [2, 0, 0], blob(1.2 + 2 * (frame / 24), 2, 2), { temperature: () => 300 });

  it('without strength is the base, carried at the fine size', () => {
    const t = team();
    const detail = new Detail(bodyOf(40, { factor: 3, strength: 0 }, {}, ['density', 'temperature', 'vel']), t, noForms, null);
    detail.begin(going(1), 1);
    const counts = [2, 3, 4, 5, 6, 7, 8].map((frame) => detail.step(going(frame), frame)).pop()!;
    expect(counts.mass / counts.baseMass).toBeCloseTo(1, 2);
    // Before anything was drawn back: what carrying by the base's velocity makes of it, seen at its voxels.
    expect(counts.apart).toBeLessThan(0.03);
    const [density] = collectDetail(t, detail, ['density']);
    let worst = 0;
    const exact = blob(1.2 + 2 * (8 / 24), 2, 2);
    for (let n = 0; n < density!.values.length; n++) {
      const o = density!.origins.slice(3 * (n >> 9), 3 * (n >> 9) + 3);
      const at = [o[0]! + ((n >> 6) & 7), o[1]! + ((n >> 3) & 7), o[2]! + (n & 7)].map((i) => (i + 0.5) * (H / 3)) as [
        number,
        number,
        number,
      ];
      worst = Math.max(worst, Math.abs(density!.values[n]! - exact(...at)));
    }
    expect(worst).toBeLessThan(0.12);
  });

  it('goes over to the base within the time it is held in, though it began with nothing', () => {
    const t = team();
    const detail = new Detail(bodyOf(32, { factor: 2, strength: 0, hold: 1 / 24 }), t, noForms, null);
    detail.begin(
      base(32, still, () => 0),
      1,
    );
    const after = [2, 3, 4].map((frame) => detail.step(base(32, still, blob(1.6, 1.6, 1.6)), frame));
    const missing = after.map((c) => 1 - c.mass / c.baseMass);
    // What is missing falls by 1 / e a frame.
    expect(missing[0]).toBeCloseTo(Math.exp(-1), 1);
    expect(missing[1]! / missing[0]!).toBeCloseTo(Math.exp(-1), 1);
    expect(missing[2]! / missing[1]!).toBeCloseTo(Math.exp(-1), 1);
  });

  it('keeps a channel that rides on the density at its value', () => {
    const t = team();
    const body = bodyOf(32, { factor: 2 }, {}, ['density', 'colour', 'vel']);
    const detail = new Detail(body, t, noForms, null);
    const parts = () => base(32, eddies, blob(1.6, 1.6, 1.6, 1), { colour: () => [0.8, 0.4, 0.1] });
    detail.begin(parts(), 1);
    for (const frame of [2, 3, 4]) detail.step(parts(), frame);
    const [colour, density] = collectDetail(t, detail, ['colour', 'density']);
    let [n, off, mean, weight] = [0, 0, 0, 0];
    for (let at = 0; at < colour!.masks.length * 8; at++) {
      if (!(colour!.masks[at >> 3]! & (1 << (at & 7)))) continue;
      n++;
      const error = Math.max(Math.abs(colour!.values[3 * at]! - 0.8), Math.abs(colour!.values[3 * at + 2]! - 0.1));
      const d = density!.values[at]!;
      if (d > 0.05) off = Math.max(off, error);
      mean += d * error;
      weight += d;
    }
    expect(n).toBeGreaterThan(5000);
    expect(off).toBeLessThan(0.1);
    expect(mean / weight).toBeLessThan(2e-3);
  });
});

describe('a detail pass', () => {
  const parts = (frame: number) =>
    base(32, (x, y, z) => eddies(x + frame / 24, y, z), blob(1.4 + frame / 48, 1.6, 1.6, 1), { temperature: blob(1.6, 1.6, 1.6, 0.5) });
  const run = (threads: number, to: number) => {
    const t = team(threads);
    const detail = new Detail(bodyOf(32, { factor: 2 }, {}, ['density', 'temperature', 'vel']), t, noForms, null);
    detail.begin(parts(1), 1);
    for (let frame = 2; frame <= to; frame++) detail.step(parts(frame), frame);
    return { detail, grids: collectDetail(t, detail, ['density', 'temperature', 'vel']) };
  };

  it('that was stopped and goes on from its state gives the same bits', () => {
    const whole = run(1, 12).grids;
    const state = run(1, 7).detail.state(7);
    const t = team();
    const again = new Detail(bodyOf(32, { factor: 2 }, {}, ['density', 'temperature', 'vel']), t, noForms, state);
    again.goOn(parts(7), 7);
    for (let frame = 8; frame <= 12; frame++) again.step(parts(frame), frame);
    const grids = collectDetail(t, again, ['density', 'temperature', 'vel']);
    expect(whole.map((g) => g.origins)).toEqual(grids.map((g) => g.origins));
    whole.forEach((g, n) => {
      expect(Buffer.compare(Buffer.from(g.values.buffer), Buffer.from(grids[n]!.values.buffer))).toBe(0);
    });
  });

  it('gives the same bits on one thread and on two', async () => {
    const bits: Uint8Array[][] = [];
    for (const threads of [1, 2])
      await withTeam(threads, (t) => {
        const detail = new Detail(bodyOf(32, { factor: 2 }, {}, ['density', 'temperature', 'vel']), t, noForms, null);
        detail.begin(parts(1), 1);
        for (const frame of [2, 3, 4]) detail.step(parts(frame), frame);
        bits.push(collectDetail(t, detail, ['density', 'temperature', 'vel']).map((g) => new Uint8Array(g.values.slice().buffer)));
      });
    bits[0]!.forEach((b, n) => {
      expect(Buffer.compare(b, bits[1]![n]!)).toBe(0);
    });
  });

  it('refuses a state that is none, or of another length', () => {
    const state = run(1, 3).detail.state(3);
    const broken = (bytes: Uint8Array) => () => {
      new Detail(bodyOf(32, { factor: 2 }), team(), noForms, bytes).goOn(parts(3), 3);
    };
    expect(broken(new Uint8Array(16))).toThrow(/it is none/);
    expect(broken(state.slice(0, -8))).toThrow(/another length/);
  });
});
