import { solveGas } from '#core/gas';
import { Detail, FOLLOWERS } from '#core/passes';
import { detailSettingsSchema, parseShotFile, resolvePlan, gasSolveOf } from '#core/shot';
import { withTeam } from '#testing';
import { type Section, middle, row } from './section';

const clock = (): number => performance.now() / 1000;
const FACTOR = 4;
const noForms = (): never => {
  throw new Error('no meshes here');
};

/** A plume that fills about a third of a box of 4 m. */
const shotOf = (last: number) =>
  parseShotFile(
    JSON.stringify({
      ruddle: 1,
      name: 'Bench',
      lastFrame: last,
      variants: [
        {
          name: 'Plume',
          settings: {
            detail: { voxelSize: 4 / 48 },
            bounds: { limit: { min: [0, 0, 0], max: [4, 4, 4] }, reach: 0.3 },
            sources: [{ shape: { kind: 'ball', centre: [2, 1.6, 2], radius: 1.1 }, density: 1, heat: 150, velocity: [0, 2, 0] }],
            forces: { turbulence: { strength: 5, size: 0.8, change: 0.7 } },
          },
        },
      ],
    }),
    'bench.json',
  );

export const upscale: Section = {
  id: 'upscale',
  title: 'Detail from 48 to 192 voxels against the same frames solved plainly at 192, all cores',
  async run({ quick, say }) {
    const last = quick ? 3 : 6;
    const shot = shotOf(last);
    const solve = gasSolveOf(shot.variants[0]!.settings);
    const names = ['density', 'temperature', 'vel'] as const;
    const coarse = resolvePlan(shot, solve, 'final');
    const environment = { clock, channels: { names }, cancelled: () => false };
    const base = await withTeam(2, (team) =>
      [...solveGas(coarse.options, { ...environment, team })].map((f) => [{ voxelSize: coarse.options.voxelSize, grids: f.grids }]),
    );
    say('48 is solved');
    const fine = resolvePlan(shot, solve, 'final', 1 / FACTOR);
    const input = {
      output: 'vdb' as const,
      voxelSizes: [coarse.options.voxelSize],
      channels: names,
      file: coarse.file,
      frames: { first: 1, last, every: 1 },
    };
    const own = detailSettingsSchema.parse({ factor: FACTOR });
    const { body } = FOLLOWERS.detail.resolve({ rung: 'final', beside: {}, shot, solve, input }, own);
    return await withTeam(2, async (one) =>
      withTeam(2, (two) => {
        const detail = new Detail(body, one, noForms, null);
        const plain = solveGas(fine.options, { ...environment, team: two });
        const ratios: number[] = [];
        let [voxels, solved] = [0, 0];
        // Frame by frame, one beside the other, so that a busy minute is of both.
        base.forEach((parts, n) => {
          const began = clock();
          const counts = n === 0 ? detail.begin(parts, 1) : detail.step(parts, n + 1);
          const between = clock();
          const frame = plain.next();
          if (n === 0 || frame.done === true) return;
          ratios.push((between - began) / (clock() - between));
          [voxels, solved] = [counts.activeVoxels, frame.value.report.activeVoxels];
          say(`frame ${String(n + 1)}: ${(between - began).toFixed(1)} s of ${(clock() - between).toFixed(1)} s`);
        });
        return [
          row('a frame of detail x4, of one solved plainly', middle(ratios), 'of it', { most: 0.6 }),
          row('awake voxels of the last frame, detail', voxels / 1e6, 'million'),
          row('the same, solved', solved / 1e6, 'million'),
        ];
      }),
    );
  },
};
