import { describe, expect, it } from 'vitest';
import type { ForceField } from '#core/flow';
import { body, boxOf, liquidOptions, runLiquid, withTeam } from '#testing';
import type { LiquidOptions } from './options';
import type { LiquidCloud } from './cloud';

/** A slab without weight; the guide takes its middle along. */
const slab = (guide: Partial<Extract<ForceField, { kind: 'guide' }>>, of: Partial<LiquidOptions['stepping']> = {}): LiquidOptions =>
  liquidOptions({
    lastFrame: 7,
    bounds: { limit: { min: [-2, -2, -2], max: [2, 2, 2] } },
    sources: [body(boxOf([-0.2, -0.2, -0.2], [0.2, 0.2, 0.2])), body(boxOf([0.9, -0.2, -0.2], [1.3, 0.2, 0.2]))],
    stepping: of,
    forces: {
      gravity: [0, 0, 0],
      fields: [
        {
          kind: 'guide',
          shape: boxOf([-0.7, -0.7, -0.7], [0.7, 0.7, 0.7]),
          soft: 0,
          factor: 1,
          time: 0.1,
          moves: { 'shape.centre.y': { kind: 'expression', text: '0.4 * time' } } as never,
          ...guide,
        },
      ],
    },
  });

async function last(options: LiquidOptions): Promise<{ cloud: LiquidCloud; time: number }> {
  return withTeam(1, (team) => {
    let cloud: LiquidCloud | null = null;
    const frames = runLiquid(team, options, { each: (f) => (cloud = f.cloud()) });
    if (!cloud) throw new Error('no frame');
    return { cloud, time: frames[frames.length - 1]!.report.time };
  });
}

/** Mean velocity of what came from a source. */
function mean({ count, motions, sources }: LiquidCloud, source: number): [number, number, number] {
  const sum: [number, number, number] = [0, 0, 0];
  let all = 0;
  for (let n = 0; n < count; n++) {
    if (sources[n] !== source) continue;
    all++;
    for (const a of [0, 1, 2] as const) sum[a] += motions[4 * n + a]!;
  }
  return sum.map((s) => s / all) as [number, number, number];
}

describe('a guide', () => {
  it.each([
    [1, 1],
    [0.5, 1],
    [-2, 6],
  ])('lends its velocity times %d to what lies in it, in its time, whatever the substeps; the rest stays', async (factor, minimum) => {
    const { cloud, time } = await last(slab({ factor }, { minimum }));
    const [x, y, z] = mean(cloud, 0);
    expect(y).toBeCloseTo(0.4 * factor * -Math.expm1(-time / 0.1), 2);
    expect(Math.abs(x) + Math.abs(z)).toBeLessThan(0.01);
    expect(Math.hypot(...mean(cloud, 1))).toBeLessThan(1e-6);
  });

  it('that turns takes its liquid round', async () => {
    const { cloud, time } = await last(
      slab({ moves: { 'shape.rotation.z': { kind: 'expression', text: '57.29578 * time' } } as never, time: 0.02 }),
    );
    let [spin, square] = [0, 0];
    for (let n = 0; n < cloud.count; n++) {
      if (cloud.sources[n] !== 0) continue;
      const [x, y] = [cloud.places[4 * n]!, cloud.places[4 * n + 1]!];
      spin += x * cloud.motions[4 * n + 1]! - y * cloud.motions[4 * n]!;
      square += x * x + y * y;
    }
    // A radian a second.
    expect(spin / square).toBeCloseTo(-Math.expm1(-time / 0.02), 1);
  });

  it('that stands still holds liquid back', async () => {
    const thrown = slab({ moves: {}, time: 0.1 });
    const options = { ...thrown, sources: thrown.sources.map((s) => ({ ...s, velocity: [0, 1, 0] as const })) };
    const { cloud, time } = await last(options);
    expect(mean(cloud, 0)[1]).toBeCloseTo(Math.exp(-time / 0.1), 1);
    expect(mean(cloud, 1)[1]).toBeCloseTo(1, 5);
  });
});
