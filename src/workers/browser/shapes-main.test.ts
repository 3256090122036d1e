import { expect, it } from 'vitest';
import type { Gap } from '#core/flow';
import type { AnyGeometry } from '#core/mesh';
import { parseWith, resolvePlan, shotFieldsSchema, solveOf } from '#core/shot';
import { ballSoup, meshShape } from '#testing';
import { settingsOf } from '#testing/values';
import { shapesMain } from './shapes-main';

it('measures the gap of a moving solid at the frame that is shown, whatever the time scale', async () => {
  const ball = ballSoup(0.5, 24);
  const geometry: AnyGeometry = { kind: 'mesh', mesh: ball, samples: null, rate: 0, count: 1 };
  const gapAt = (timeScale: number): Promise<Gap> => {
    const settings = settingsOf({
      detail: { voxelSize: 0.1 },
      bounds: { limit: { min: [0, 0, 0], max: [4, 2, 2] } },
      solids: [
        {
          shape: { ...meshShape('b'.repeat(64), ball, { centre: [1, 1, 1] }), file: 'ball.obj' },
          moves: { 'shape.centre.x': { kind: 'expression', text: '1 + time' } },
        },
      ],
    } as never);
    const shot = parseWith(shotFieldsSchema, { name: 'Ball', lastFrame: 48, timeScale }, 'test');
    const plan = resolvePlan(shot, solveOf(settings), 'final');
    return new Promise((resolve, reject) => {
      const ask = shapesMain(
        (reply) => {
          if ('answer' in reply) resolve(reply.answer as Gap);
          else reject(new Error(reply.error.message));
        },
        () => Promise.resolve(geometry),
      );
      ask({ id: 1, question: { kind: 'gap', plan, frame: 25, solid: 0 } });
    });
  };
  const [slow, real] = [await gapAt(0.25), await gapAt(1)];
  expect(slow.mean).toBeCloseTo(real.mean, 6);
  expect(slow.outside).toBeCloseTo(real.outside, 6);
  expect(real.mean).toBeLessThan(0.15);
});
