import { describe, expect, it } from 'vitest';
import { canonicalJson } from './canonical';
import { atRealSize, realSize } from './real-size';
import { movedItem } from './moved';
import { solveSchema } from './solve-settings';
import { shotFieldsSchema } from './shot';

const shot = shotFieldsSchema.parse({
  name: 'Small set',
  metresPerUnit: 0.5,
  cameras: [{ name: 'Front', position: [0, 1, 4], target: [0, 1, 0], fieldOfView: 30, aspect: 1.5 }],
});
const settings = solveSchema.parse({
  detail: { voxelSize: 0.01 },
  bounds: { limit: { min: [-1, 0, -1], max: [1, 2, 1] }, reach: 0.1 },
  sources: [{ shape: { kind: 'cylinder', centre: [0, 0.5, 0], radius: 0.05, height: 0.1 }, mode: 'set', velocity: [0, 0.8, 0] }],
  solids: [{ shape: { kind: 'box', centre: [0, 0.2, 0], size: [0.4, 0.4, 0.4] } }],
  forces: { wind: [0.5, 0, 0], turbulence: { strength: 1, size: 0.2, change: 0.5 } },
  matter: { decayTime: 2 },
});

describe('real size', () => {
  it('keeps the Froude number, the number of voxels and the push of forces', () => {
    const N = 16;
    const { shot: large, settings: s } = atRealSize(shot, settings, N);
    expect(large.metresPerUnit).toBe(8);
    expect(large.cameras[0]!.position).toEqual([0, 16, 64]);
    const height = (x: typeof settings): number => (x.sources[0]!.shape.kind === 'cylinder' ? x.sources[0]!.shape.height : 0);
    const froude = (x: typeof settings): number => x.sources[0]!.velocity![1] ** 2 / (9.81 * height(x));
    expect(froude(s)).toBeCloseTo(froude(settings), 9);
    expect(height(s) / s.detail.voxelSize).toBeCloseTo(height(settings) / settings.detail.voxelSize, 9);
    // Speeds and times by the root, accelerations not at all.
    expect(s.forces.wind[0]).toBeCloseTo(0.5 * 4, 9);
    expect(s.matter.decayTime).toBeCloseTo(8, 9);
    expect(s.forces.turbulence).toMatchObject({ strength: 1, size: 3.2, change: 2 });
    expect(solveSchema.safeParse(s).success).toBe(true);
    const facts = realSize(shot, settings, N);
    expect(facts).toMatchObject({ speedFactor: 4, timeFactor: 4, metresPerUnit: 8 });
    expect(facts.gravityIfLeft).toBeCloseTo(156.9, 1);
  });

  it('there and back again is where it began', () => {
    const there = atRealSize(shot, settings, 4);
    const back = atRealSize(there.shot, there.settings, 1 / 4);
    expect(canonicalJson(back)).toBe(canonicalJson({ shot, settings }));
  });

  it('takes what moves along: the same motion, larger and in stretched time', () => {
    const door = solveSchema.parse({
      sources: [
        {
          shape: { kind: 'ball', centre: [0.2, 0.1, 0] },
          moves: {
            'shape.centre.x': { kind: 'expression', text: 'value + 0.1 * sin(time * 3)' },
            'shape.centre.y': {
              kind: 'keys',
              keys: [
                { frame: 1, value: 0.1, then: 'straight' },
                { frame: 13, value: 0.4 },
              ],
            },
            heat: { kind: 'expression', text: 'value * (frame > 5)' },
            'shape.centre.z': { kind: 'expression', text: '4 * time', limits: [0.2, 0.9] },
          },
        },
      ],
    });
    const { settings: large } = atRealSize(shot, door, 4);
    const at = (s: typeof door, time: number): (typeof door)['sources'][0] =>
      movedItem(s.sources[0]!, { time, firstFrame: 1, framesPerSecond: 24 }, {});
    for (const t of [0, 0.13, 0.31, 0.5]) {
      const [small, big] = [at(door, t), at(large, 2 * t)];
      for (const a of [0, 1, 2] as const) expect(big.shape.centre[a]).toBeCloseTo(4 * small.shape.centre[a], 4);
      expect(big.heat).toBe(small.heat);
    }
  });
});
