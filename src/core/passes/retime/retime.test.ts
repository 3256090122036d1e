import { describe, expect, it } from 'vitest';
import { gridOf } from '#testing';
import { retimeSettingsSchema } from '#core/shot';
import { makeShot } from '#testing/values';
import { momentOf, retimeDefinition, retimed } from '.';

const H = 0.1;
const SPEED = 1.8;
const box = { low: [0, 0, 0], high: [40, 16, 16], h: H };
const blob =
  (cx: number) =>
  (x: number, y: number, z: number): number =>
    Math.max(0, 1 - ((x - cx) ** 2 + (y - 0.8) ** 2 + (z - 0.8) ** 2) / 0.5 ** 2);
/** A blob that goes along x: where it is after so many frames. */
const at = (frames: number): number => 1 + (SPEED * frames) / 24;
const frame = (frames: number, speed = SPEED) => [gridOf('density', blob(at(frames)), box), gridOf('vel', () => [speed, 0, 0], box)];
const off = (values: Float32Array, exact: Float32Array): number => {
  let [sum, norm] = [0, 0];
  values.forEach((v, n) => {
    sum += (v - exact[n]!) ** 2;
    norm += exact[n]! ** 2;
  });
  return Math.sqrt(sum / norm);
};

describe('a moment between two frames', () => {
  it('is where the motion has brought what both have, not a mixture of both', () => {
    // Eight frames apart: 6 voxels on the way.
    const o = { share: 0.3, seconds: 8 / 24, voxelSize: H, speed: 0.5 };
    const { grids, apart } = retimed(frame(0), frame(8), ['density', 'vel'], o);
    const exact = frame(8 * 0.3)[0]!.values;
    expect(off(grids[0]!.values, exact)).toBeLessThan(0.04);
    expect(apart).toBeLessThan(0.06);
    const later = frame(8)[0]!.values;
    const mixed = frame(0)[0]!.values.map((v, n) => 0.7 * v + 0.3 * later[n]!);
    expect(off(mixed, exact)).toBeGreaterThan(0.4);
    // Half as fast is half the velocity too.
    expect(grids[1]!.values[3 * 5000]).toBeCloseTo(0.5 * SPEED, 5);
  });

  it('says how unlike its neighbours are when their velocities do not tell where they go', () => {
    const o = { share: 0.5, seconds: 8 / 24, voxelSize: H, speed: 1 };
    expect(retimed(frame(0, 0), frame(8, 0), ['density'], o).apart).toBeGreaterThan(0.8);
  });

  it('is a frame itself where it meets one', () => {
    const o = { share: 0, seconds: 1 / 24, voxelSize: H, speed: 1 };
    const { grids, apart } = retimed(frame(3), frame(3), ['density'], o);
    expect(off(grids[0]!.values, frame(3)[0]!.values)).toBeLessThan(1e-6);
    expect(apart).toBe(0);
  });
});

describe('a retime pass', () => {
  const input = {
    output: 'vdb' as const,
    voxelSizes: [H],
    channels: ['density', 'vel'],
    file: { metresPerUnit: 1, upAxis: 'y' as const, timeScale: 1 },
    frames: { first: 5, last: 25, every: 2 },
  };
  const resolve = (speed: number) =>
    retimeDefinition.resolve(
      { rung: 'final', beside: {}, shot: makeShot().fields, solve: null as never, input },
      retimeSettingsSchema.parse({ speed }),
    );

  it('has as many frames as the speed makes of the range, each of the two beside its moment', () => {
    const { body, frames } = resolve(0.5);
    expect(frames).toEqual({ first: 5, last: 45, every: 1 });
    expect(momentOf(body, 5)).toEqual({ before: 5, after: 5, share: 0, moment: 5 });
    expect(momentOf(body, 10)).toEqual({ before: 7, after: 9, share: 0.25, moment: 7.5 });
    expect(momentOf(body, 45)).toMatchObject({ before: 25, after: 25, share: 0 });
    expect(resolve(3).frames.last).toBe(11);
  });

  it('refuses to make more frames than anybody can mean', () => {
    expect(() =>
      retimeDefinition.resolve(
        {
          rung: 'final',
          beside: {},
          shot: makeShot().fields,
          solve: null as never,
          input: { ...input, frames: { first: 1, last: 90_000, every: 1 } },
        },
        retimeSettingsSchema.parse({ speed: 0.1 }),
      ),
    ).toThrow(/raise the speed/);
  });
});
