import { afterEach, describe, expect, it } from 'vitest';
import { mulberry32 } from '#core/math';
import { velocityField as field } from '#testing';
import { type Team, createTeam } from '#kernels';
import type { ParticlesBody } from './body';
import type { Flight, VelocityPart } from '../flight';
import { particlesFlight } from '.';

const teams: Team[] = [];
const team = (): Team => {
  const made = createTeam({ threads: 1 });
  teams.push(made);
  return made;
};
afterEach(() => {
  for (const t of teams.splice(0)) t.stop();
});

const still = field(() => [0, 0, 0]);
const place = {
  shape: { kind: 'ball', centre: [1, 0, 0], radius: 0.5 },
  density: 1,
  heat: null,
  fuel: null,
  turnsAbout: null,
  moves: {},
} as const;
type Settings = ParticlesBody['settings'];
const body = (settings: Partial<Settings> = {}, more: Partial<ParticlesBody> = {}): ParticlesBody => ({
  settings: { birth: 'volume', perSecond: 24000, life: 100, lifeSpread: 0, drag: null, weight: 0, seed: 1, ...settings },
  places: [place],
  followed: {},
  frameSeconds: 1 / 24,
  firstFrame: 1,
  framesPerSecond: 24,
  ...more,
});
const noMesh = (): never => {
  throw new Error('no mesh here');
};
const flight = (b: ParticlesBody, from: Uint8Array | null = null): Flight => particlesFlight(b, team(), noMesh, from);
const positions = ({ cloud }: Flight): number[][] =>
  Array.from({ length: cloud.count }, (_v, n) => [...cloud.places.subarray(4 * n, 4 * n + 3)]);
/** The same particles, and no more of them. */
const only = (b: ParticlesBody, f: Flight, gas: VelocityPart[]): Flight => {
  const g = flight({ ...b, settings: { ...b.settings, perSecond: 1e-9 } }, f.state());
  g.goOn(gas);
  return g;
};

describe('seeds', () => {
  it('are as many as wanted, all inside, evenly spread, and no two frames alike', () => {
    const f = flight(body({ perSecond: 480000 }));
    f.begin(1, still);
    const places = positions(f);
    expect(places.length).toBeGreaterThan(19000);
    expect(places.length).toBeLessThan(21000);
    for (const [x, y, z] of places) expect(Math.hypot(x! - 1, y!, z!)).toBeLessThan(0.5 + 1e-6);
    // Stratified: in eight equal parts of the ball the counts differ far less than chance would make them (sqrt(2500) = 50).
    const parts = new Array<number>(8).fill(0);
    for (const [x, y, z] of places) parts[(x! > 1 ? 1 : 0) + (y! > 0 ? 2 : 0) + (z! > 0 ? 4 : 0)]!++;
    const mean = places.length / 8;
    for (const n of parts) expect(Math.abs(n - mean)).toBeLessThan(50);
    const next = flight(body({ perSecond: 480000 }));
    next.begin(2, still);
    expect(positions(next)[0]).not.toEqual(places[0]);
  });

  it('are born in the frames in which the source emits, to a part of a step', () => {
    const born = (during: { from: number | null; to: number | null; every: number }, frames: readonly number[]): number[] =>
      frames.map((frame) => {
        const f = flight(body({ perSecond: 24_000 }, { places: [{ ...place, during }], frameSeconds: during.every / 24 }));
        f.begin(frame, still);
        return Math.round(f.cloud.count / 100) / 10;
      });
    expect(born({ from: 3, to: 5, every: 1 }, [1, 2, 3, 4, 5, 6, 7])).toEqual([0, 0, 1, 1, 1, 0, 0]);
    expect(born({ from: null, to: 2, every: 1 }, [1, 2, 3])).toEqual([1, 1, 0]);
    // Every fourth frame: a step to frame 5 has frames 2 to 5, of which 3, 4 and 5 emit.
    expect(born({ from: 3, to: 6, every: 4 }, [1, 5, 9, 13])).toEqual([0, 3, 1, 0]);
    // Nobody is as old as the part of the step before.
    const late = flight(body({}, { places: [{ ...place, during: { from: 5, to: 5, every: 4 } }], frameSeconds: 4 / 24 }));
    late.begin(1, still);
    late.step(5, still);
    const ages = Array.from({ length: late.cloud.count }, (_v, n) => late.cloud.places[4 * n + 3]!);
    expect(ages.length).toBeGreaterThan(900);
    expect(Math.max(...ages)).toBeLessThanOrEqual(1 / 24 + 1e-6);
  });

  it('lie on the surface when that is wanted', () => {
    const f = flight(body({ birth: 'surface', perSecond: 48000 }));
    f.begin(1, still);
    const places = positions(f);
    expect(places.length).toBeGreaterThan(1700);
    expect(places.length).toBeLessThan(2300);
    for (const [x, y, z] of places) expect(Math.abs(Math.hypot(x! - 1, y!, z!) - 0.5)).toBeLessThan(2e-3);
  });

  it('come while the source emits: nothing of one that gives nothing', () => {
    expect(flight(body({}, { places: [{ ...place, density: 0 }] })).begin(1, still).born).toBe(0);
  });
});

describe('carrying', () => {
  /** A turn about the y axis, once in two seconds. */
  const turning = field((x, _y, z) => [Math.PI * z, 0, -Math.PI * x]);

  it('goes round with a turning gas: back after a turn, at the same distance', () => {
    const b = body({ perSecond: 2400 });
    const f = flight(b);
    f.begin(1, turning);
    const before = positions(f);
    const g = only(b, f, turning);
    for (let frame = 2; frame <= 49; frame++) g.step(frame, turning);
    const after = positions(g);
    expect(after).toHaveLength(before.length);
    after.forEach((p, n) => expect(Math.hypot(p[0]! - before[n]![0]!, p[2]! - before[n]![2]!)).toBeLessThan(0.02));
  });

  it('takes the velocity between two frames straight in time', () => {
    const fast = field(() => [0, 2, 0]);
    const b = body({ perSecond: 2400 });
    const f = flight(b);
    f.begin(1, still);
    const y = positions(f).map((p) => p[1]!);
    const g = only(b, f, still);
    g.step(2, fast);
    // From 0 to 2 m/s within the frame: 1 m/s in the mean.
    positions(g).forEach((p, n) => expect(p[1]! - y[n]!).toBeCloseTo(1 / 24, 4));
  });

  it('with drag it falls at weight x gravity / drag in the end, and takes on the wind', () => {
    const wind = field(() => [1.5, 0, 0], [1.5, 0, 0]);
    const b = body({ drag: 4, weight: 0.5, perSecond: 2400, life: 100 });
    const f = flight(b);
    f.begin(1, still);
    const g = only(b, f, wind);
    for (let frame = 2; frame <= 60; frame++) g.step(frame, wind);
    const v = [...g.cloud.motions.subarray(0, 3)];
    expect(v[0]).toBeCloseTo(1.5, 2);
    expect(v[1]).toBeCloseTo((-0.5 * 9.81) / 4, 2);
    expect(v[2]).toBeCloseTo(0, 5);
  });

  it('is born within the frame, and gone at its age limit', () => {
    const up = field(() => [0, 1, 0], [0, 1, 0]);
    const f = flight(body({ life: 0.25, lifeSpread: 0.5, perSecond: 120000 }));
    f.begin(1, up);
    const counts = [];
    for (let frame = 2; frame <= 24; frame++) counts.push(f.step(frame, up));
    const { cloud } = f;
    const [ages, limits] = [3, 3].map((at, k) =>
      Array.from({ length: cloud.count }, (_v, n) => (k === 0 ? cloud.places : cloud.motions)[4 * n + at]!),
    ) as [number[], number[]];
    for (let n = 0; n < cloud.count; n++) {
      expect(ages[n]).toBeGreaterThanOrEqual(0);
      expect(ages[n]).toBeLessThan(limits[n]!);
      expect(limits[n]).toBeGreaterThanOrEqual(0.125 - 1e-6);
      expect(limits[n]).toBeLessThanOrEqual(0.375 + 1e-6);
    }
    // As many go as come once the oldest are at their limit.
    const [born, gone] = [counts, counts].map((list, k) => list.slice(12).reduce((sum, c) => sum + (k === 0 ? c.born : c.gone), 0));
    expect(gone! / born!).toBeGreaterThan(0.9);
    expect(gone! / born!).toBeLessThan(1.1);
    // About half of those of this frame were born in its first half.
    const young = ages.filter((a) => a < 1 / 24);
    expect(young.filter((a) => a < 1 / 48).length / young.length).toBeCloseTo(0.5, 1);
  });

  it('carries a newborn only for what is left of the frame', () => {
    const wind = field(() => [12, 0, 0], [12, 0, 0]);
    const f = flight(body({ perSecond: 48000 }));
    f.begin(1, wind);
    const before = f.cloud.count;
    f.step(2, wind);
    const { cloud } = f;
    expect(cloud.count).toBeGreaterThan(before + 1500);
    for (let n = before; n < cloud.count; n++) {
      const [x, y, z, age] = [...cloud.places.subarray(4 * n, 4 * n + 4)] as [number, number, number, number];
      // Back by its age it is where it was born: in the ball.
      expect(Math.hypot(x - 12 * age - 1, y, z)).toBeLessThan(0.501);
    }
  });

  it('from a state it goes on with the same bits', () => {
    const b = body({ life: 0.3, perSecond: 240000 });
    const f = flight(b);
    f.begin(1, turning);
    for (let frame = 2; frame <= 5; frame++) f.step(frame, turning);
    const ids = [...f.cloud.ids.subarray(0, f.cloud.count)];
    expect(new Set(ids).size).toBe(ids.length);
    const again = flight(b, f.state());
    again.goOn(turning);
    for (let frame = 6; frame <= 9; frame++) for (const x of [f, again]) x.step(frame, turning);
    expect(Buffer.compare(again.state(), f.state())).toBe(0);
  });

  it('no state of something else is taken for one', () => {
    expect(flight(body(), new Uint8Array(12)).cloud.count).toBe(0);
  });

  it('samples as written down by hand: trilinear, across tiles, at the rim, of the finest part that has the place', () => {
    const random = mulberry32(3);
    const noise = new Map<string, readonly [number, number, number]>();
    const of = (x: number, y: number, z: number): readonly [number, number, number] => {
      const key = [x, y, z].map((v) => v.toFixed(4)).join();
      const known = noise.get(key) ?? [random() - 0.5, random() - 0.5, random() - 0.5];
      noise.set(key, known);
      return known;
    };
    const wind = [0.25, -0.5, 1];
    const coarse = field((x, y, z) => of(x + 100, y, z), wind, 16, 0.25);
    const fine = field(of, wind, 8, 0.125);
    const [box, h] = [16, 0.25];
    /** One part, by its definition: weights of the eight middles around. */
    const by = (p: readonly number[], half: number, size: number, shift: number): number[] => {
      const q = p.map((v) => v / size - 0.5);
      const low = q.map(Math.floor);
      const sum = [0, 0, 0];
      for (let c = 0; c < 8; c++) {
        const at = low.map((v, a) => v + ((c >> a) & 1));
        const w = q.reduce((m, v, a) => m * ((c >> a) & 1 ? v - low[a]! : 1 - (v - low[a]!)), 1);
        const inside = at.every((v) => v >= -half && v < half);
        const m = at.map((v) => (v + 0.5) * size) as [number, number, number];
        const value = inside ? of(m[0] + shift, m[1], m[2]) : wind;
        value.forEach((v, a) => (sum[a]! += w * v));
      }
      return sum;
    };
    const b = body(
      { perSecond: 24 * 4000 },
      { places: [{ ...place, shape: { kind: 'box', centre: [0, 0, 0], size: [9, 9, 9], rotation: [0, 0, 0] } }] },
    );
    const f = flight(b);
    f.begin(1, [...coarse, ...fine]);
    let [finer, outside] = [0, 0];
    for (let n = 0; n < f.cloud.count; n++) {
      const p = [...f.cloud.places.subarray(4 * n, 4 * n + 3)];
      // The lower of the eight decides which part has it.
      const inFine = p.every((v) => Math.floor(v / 0.125 - 0.5) >= -8 && Math.floor(v / 0.125 - 0.5) < 8);
      if (inFine) finer++;
      if (p.some((v) => Math.abs(v) > box * h)) outside++;
      const wanted = inFine ? by(p, 8, 0.125, 0) : by(p, box, h, 100);
      wanted.forEach((v, a) => expect(f.cloud.motions[4 * n + a]).toBeCloseTo(v, 4));
    }
    expect(finer).toBeGreaterThan(20);
    expect(outside).toBeGreaterThan(200);
  });
});
