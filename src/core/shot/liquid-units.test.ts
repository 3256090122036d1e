import { expect, it } from 'vitest';
import { runLiquid, withTeam } from '#testing';
import { writePly } from '#core/formats';
import { isLiquidPlan, liquidSolveSchema, resolvePlan, shotFieldsSchema } from '.';

it('a liquid moves the same whatever a unit of the scene is: only what is written is in it', async () => {
  const settings = liquidSolveSchema.parse({
    detail: { voxelSize: 0.05 },
    bounds: { limit: { min: [0, 0, 0], max: [1, 0.8, 0.3] } },
    sources: [{ name: 'Column', shape: { kind: 'box', centre: [0.2, 0.3, 0.15], size: [0.4, 0.6, 0.3] } }],
  });
  const told = await Promise.all(
    [1, 0.01].map(async (metresPerUnit) => {
      const plan = resolvePlan(shotFieldsSchema.parse({ name: 'Tank', lastFrame: 6, metresPerUnit }), settings, 'final');
      if (!isLiquidPlan(plan)) throw new Error('no liquid');
      return withTeam(1, (team) => {
        let file = new Uint8Array(0);
        const frames = runLiquid(team, plan.options, {
          each: ({ cloud }) => {
            const { count, places, motions, ids } = cloud();
            file = writePly({ count, places, motions, ids: Uint32Array.from(ids) }, plan.file);
          },
        });
        const last = frames[frames.length - 1]!.report;
        return { box: last.matterBox!, volume: last.surfaceVolume, file };
      });
    }),
  );
  const [metres, centimetres] = [told[0]!, told[1]!];
  expect(centimetres.box).toEqual(metres.box);
  expect(centimetres.volume).toBe(metres.volume);
  const firstX = ({ file }: typeof metres): number => {
    const at = new TextDecoder('latin1').decode(file).indexOf('end_header\n') + 'end_header\n'.length;
    return new DataView(file.buffer, file.byteOffset).getFloat32(at, true);
  };
  expect(firstX(centimetres) / firstX(metres)).toBeCloseTo(100, 3);
});
