import { describe, expect, it } from 'vitest';
import type { ParticleColumns } from '#core/formats';
import { refillSettingsSchema } from '#core/shot';
import { refusalOf, velocityField, withTeam } from '#testing';
import { makeShot } from '#testing/values';
import { type RefillBody, aliveOf, refillDefinition, refillFlight } from '.';

const FRAME = 1 / 24;
const still = velocityField(() => [0, 0, 0]);
const body = (own: object = {}, more: Partial<RefillBody> = {}): RefillBody => ({
  settings: refillSettingsSchema.parse({ life: 100, lifeSpread: 0, perSecond: 2400, radius: 0.2, ...own }),
  frameSeconds: FRAME,
  firstFrame: 1,
  ages: true,
  ...more,
});

/** Particles by number: place, velocity, age. */
const parents = (
  list: readonly { id: number; at: readonly [number, number, number]; v?: readonly [number, number, number]; age?: number }[],
): ParticleColumns => ({
  count: list.length,
  places: Float32Array.from(list.flatMap(({ at, age = 9 }) => [...at, age])),
  motions: Float32Array.from(list.flatMap(({ v = [0, 0, 0] }) => [...v, 100])),
  ids: Uint32Array.from(list.map(({ id }) => id)),
});

type Flown = ReturnType<typeof refillFlight>;
const places = ({ flight: { cloud } }: Flown): number[][] =>
  Array.from({ length: cloud.count }, (_v, n) => [...cloud.places.subarray(4 * n, 4 * n + 4)]);
const away = (p: readonly number[], from: readonly number[]): number => Math.hypot(p[0]! - from[0]!, p[1]! - from[1]!, p[2]! - from[2]!);

describe('particles born around others', () => {
  it('are as many as wanted, evenly in the ball around each, by chance of its own', async () => {
    await withTeam(1, (team) => {
      const at = [
        [1, 0, 0],
        [-1, 0, 0],
      ] as const;
      const flown = refillFlight(body({ perSecond: 240_000 }), team, () => parents(at.map((a, id) => ({ id, at: a }))));
      flown.flight.begin(1, still);
      const all = places(flown);
      expect(all.length).toBe(20_000);
      for (const [n, from] of at.entries()) {
        const own = all.filter((p) => away(p, from) <= 0.2 + 1e-6);
        expect(own).toHaveLength(10_000);
        // Of a ball, an eighth lies within half its radius.
        expect(own.filter((p) => away(p, from) < 0.1).length / own.length).toBeCloseTo(1 / 8, 1);
        // The mean lies in the middle: within four times what chance makes of it.
        for (const a of [0, 1, 2]) expect(Math.abs(own.reduce((sum, p) => sum + p[a]! - from[a]!, 0) / own.length)).toBeLessThan(4e-3);
        if (n > 0) expect(own[0]!.map((v, a) => v - (from[a] ?? 0))).not.toEqual(all[0]!.map((v, a) => v - (at[0][a] ?? 0)));
      }
    });
  });

  it('lie along the way that a moving one came, and none before its birth', async () => {
    await withTeam(1, (team) => {
      // One that has lived long, and one that was born a quarter of the frame ago.
      const v = [24, 0, 0] as const;
      const both = parents([
        { id: 1, at: [2, 0, 0], v },
        { id: 2, at: [2, 1, 0], v, age: FRAME / 4 },
      ]);
      const flown = refillFlight(body({ perSecond: 24_000, radius: 0.01 }, { firstFrame: 0 }), team, () => both);
      flown.flight.goOn(still);
      flown.births.goOn(0);
      flown.flight.step(1, still);
      const all = places(flown);
      const [long, young] = [all.filter((p) => p[1]! < 0.5), all.filter((p) => p[1]! > 0.5)];
      expect(long).toHaveLength(1000);
      expect(young).toHaveLength(250);
      // A frame is a metre of its way; ages are those of where on the way each was born.
      const span = (list: readonly number[][]): number[] => [Math.min(...list.map((p) => p[0]!)), Math.max(...list.map((p) => p[0]!))];
      expect(span(long)[0]).toBeCloseTo(1, 1);
      expect(span(young)[0]).toBeCloseTo(1.75, 1);
      for (const list of [long, young]) expect(span(list)[1]).toBeCloseTo(2, 1);
      for (const [x, , , age] of all) expect(Math.abs(2 - 24 * age! - x!)).toBeLessThan(0.0101);
    });
  });

  it('come once, where that is wanted: at the first frame that has a number, also after going on', async () => {
    const at = (frame: number) =>
      parents(Array.from({ length: frame }, (_v, id) => ({ id, at: [id / 4, 0, 0] as const, age: id + 1 === frame ? 0 : 1 })));
    await withTeam(1, (team) => {
      const flown = refillFlight(body({ births: 'once', each: 30 }), team, at);
      const counts = [flown.flight.begin(1, still), flown.flight.step(2, still), flown.flight.step(3, still)];
      expect(counts.map((c) => c.born)).toEqual([30, 30, 30]);
      const again = refillFlight(body({ births: 'once', each: 30 }), team, at, flown.flight.state());
      again.flight.goOn(still);
      again.births.goOn(3);
      expect(again.flight.step(4, still).born).toBe(30);
      flown.flight.step(4, still);
      expect(places(again)).toEqual(places(flown));
    });
  });

  it('are a part of one in the mean, when less than one is wanted', async () => {
    await withTeam(1, (team) => {
      const many = parents(Array.from({ length: 4000 }, (_v, id) => ({ id, at: [0, 0, 0] as const })));
      const flown = refillFlight(body({ births: 'once', each: 0.25 }), team, () => many);
      expect(Math.abs(flown.flight.begin(1, still).born - 1000)).toBeLessThan(4 * Math.sqrt(750));
    });
  });

  it('are carried, get old and go: what lives is what was predicted', async () => {
    await withTeam(1, (team) => {
      const b = body({ perSecond: 4800, life: 0.25, lifeSpread: 0.5 });
      const up = velocityField(() => [0, 1, 0]);
      const flown = refillFlight(b, team, () => parents([{ id: 7, at: [0, 0, 0] }]));
      flown.flight.begin(1, up);
      let [born, gone] = [200, 0];
      for (let f = 2; f <= 24; f++) {
        const counts = flown.flight.step(f, up);
        born += counts.born;
        gone += counts.gone;
      }
      expect(flown.flight.cloud.count).toBe(born - gone);
      expect(flown.flight.cloud.count / aliveOf(b, 1, 23)).toBeGreaterThan(0.9);
      expect(flown.flight.cloud.count / aliveOf(b, 1, 23)).toBeLessThan(1.1);
      for (const [, y, , age] of places(flown)) expect(Math.abs(y! - age!)).toBeLessThan(0.2 + 1e-4);
    });
  });
});

describe('what a refill can read', () => {
  const file = { metresPerUnit: 1, upAxis: 'y', timeScale: 1 } as const;
  const resolve = (points: object, gas: object, own: object = {}) =>
    refillDefinition.resolve(
      {
        shot: makeShot().fields,
        solve: null as never,
        rung: 'final',
        input: { output: 'ply', voxelSizes: [], channels: ['v', 'age', 'id'], file, frames: { first: 1, last: 20, every: 1 }, ...points },
        beside: {
          velocity: { output: 'vdb', voxelSizes: [0.1], channels: ['vel'], file, frames: { first: 5, last: 30, every: 1 }, ...gas },
        },
      },
      refillSettingsSchema.parse(own),
    );
  it('are the frames that both have', () => {
    expect(resolve({}, {}).frames).toEqual({ first: 5, last: 20, every: 1 });
    expect(resolve({ frames: { first: 1, last: 21, every: 4 } }, {}).frames).toEqual({ first: 5, last: 21, every: 4 });
  });

  it('says why it cannot be', () => {
    expect(refusalOf(() => resolve({}, { frames: { first: 30, last: 40, every: 1 } }))).toMatch(/no frame in common/);
    expect(refusalOf(() => resolve({}, { frames: { first: 1, last: 21, every: 2 } }))).toMatch(/every frame and the velocity does not/);
    expect(refusalOf(() => resolve({ channels: ['v'] }, {}, { births: 'once' }))).toMatch(/have no number \(id\)/);
  });
});
