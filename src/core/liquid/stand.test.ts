import { expect, it } from 'vitest';
import { needSweep } from './moving-sweep';
import { body, boxOf, liquidOptions, runLiquid, solid, withTeam } from '#testing';
import type { LiquidReport } from './report';

/** A gate in a tank, still or with a motion. */
async function gate(text: string | null): Promise<LiquidReport[]> {
  const moves = text === null ? {} : { 'shape.centre.y': { kind: 'expression', text } };
  const options = liquidOptions({
    lastFrame: 8,
    sources: [body(boxOf([0, 0, 0], [0.4, 0.8, 0.4]))],
    solids: [solid({ shape: boxOf([0.55, -0.1, -0.2], [0.65, 0.5, 0.6]), moves: moves as never })],
  });
  return withTeam(1, (team) => runLiquid(team, options).map((f) => f.report));
}
/** All but the times. */
const bare = (reports: readonly LiquidReport[]): unknown =>
  reports.map(({ seconds: _s, totalSeconds: _t, calibrationSeconds: _c, ...rest }) => rest);

it('a solid that has a motion and does not move yet is as one that stands, to the bit, and moves when its time comes', async () => {
  const still = await gate(null);
  expect(bare(await gate('0.2 + max(0, time - 100)'))).toEqual(bare(still));
  const lifted = await gate('0.2 + 3 * max(0, time - 0.1)');
  expect(bare(lifted.slice(0, 3))).toEqual(bare(still.slice(0, 3)));
  expect(lifted[7]?.matterBox?.[3]).toBeGreaterThan(0.75);
  // Over the gate's top at most, not beyond it.
  expect(still[7]?.matterBox?.[3]).toBeLessThan(0.65);
});

it('what is thinner than the grid shows is swept against while it stands, too', () => {
  const of = (thick: number, moves: object): boolean =>
    needSweep({ voxelSize: 0.05, solids: [solid({ shape: boxOf([0, 0, 0], [thick, 1, 1]), moves: moves as never })] });
  const up = { 'shape.centre.y': { kind: 'expression', text: 'time' } };
  expect([of(0.02, up), of(0.2, up), of(0.02, {}), of(0.2, { 'shape.size.x': up['shape.centre.y'] })]).toEqual([true, false, false, true]);
});
