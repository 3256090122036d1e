import { describe, expect, it } from 'vitest';
import { isGasPlan, kindOf, neverFits, opsOf, readAnyStoredPlan } from '#core/passes';
import { type Plan, optionsOf, resolvePlan, shotFieldsSchema, gasSolveOf, storedText } from '#core/shot';
import { makePassRun, settingsOf } from '#testing/values';

const shot = shotFieldsSchema.parse({ name: 'Two', firstFrame: 5, lastFrame: 20, preRoll: 3 });
const settings = settingsOf(
  {
    bounds: {
      limit: { min: [0, 0, 0], max: [3.2, 3.2, 3.2] },
      beside: [{ name: 'Far', limit: { min: [20, 0, 0], max: [22.4, 2.4, 2.4] }, voxelSize: 0.05 }],
    },
    sources: [
      { shape: { kind: 'ball', centre: [1.6, 0.8, 1.6], radius: 0.5 } },
      { shape: { kind: 'ball', centre: [21.2, 0.8, 1.2], radius: 0.3 } },
    ],
  },
  [{ id: 'coarse', kind: 'resample', name: 'Coarse' }],
);
const plan: Plan = resolvePlan(shot, gasSolveOf(settings), 'final');

describe('the gas solve as a kind of pass', () => {
  const ops = opsOf(plan);

  it('says what its cache is like, which frames it has and what its files are called by', () => {
    expect(kindOf(plan)).toBe('gas');
    expect(ops.gives(plan)).toMatchObject({ output: 'vdb', voxelSizes: [0.1, 0.05], frames: { first: 5, last: 20, every: 1 } });
    const whole = { ...plan, keep: { ...plan.keep, preRoll: true } };
    expect(ops.gives(whole).frames.first).toBe(2);
    expect(ops.range(plan)).toEqual({ first: 5, last: 20, every: 1, preRoll: 3, voxelSize: 0.1 });
    expect([0, 1].map((n) => ops.partName(plan, n))).toEqual(['solve', 'solve-2']);
  });

  it('goes on to another last frame in all of its bounds, and stays the same run', () => {
    const longer = ops.upTo(plan, 40) as Plan;
    expect(optionsOf(longer).map((o) => o.lastFrame)).toEqual([40, 40]);
    expect(ops.key(longer)).toBe(ops.key(plan));
  });

  it('is refused before it starts when one of its bounds can never fit', () => {
    expect(neverFits(plan, 4e9)).toBeNull();
    const dense = {
      ...plan,
      beside: plan.beside.map((o) => ({ ...o, voxelSize: 0.002, bounds: { ...o.bounds, mode: 'dense' as const } })),
    };
    expect(neverFits(dense, 4e9)).toMatchObject({ message: expect.stringMatching(/do not fit into memory/) as string });
  });
});

describe('a stored plan of any kind', () => {
  it('is read as what it is', () => {
    const read = readAnyStoredPlan(storedText(plan));
    expect(isGasPlan(read)).toBe(true);
    expect(opsOf(read).key(read)).toBe(opsOf(plan).key(plan));
    const { plan: follower } = makePassRun(settings, 'coarse');
    const again = readAnyStoredPlan(JSON.stringify({ ruddle: 4, ...follower }));
    expect(again).toEqual(follower);
    expect([kindOf(again), opsOf(again).partName(again, 1)]).toEqual(['resample', 'resample-2']);
    expect(opsOf(again).range(opsOf(again).upTo(again, 90)).last).toBe(90);
    expect(() => readAnyStoredPlan('{"pass":"melting"}')).toThrow(/is no kind of pass of this Ruddle/);
    expect(() => readAnyStoredPlan('{')).toThrow(/not JSON/);
  });
});
