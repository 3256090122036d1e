import type { Form } from '#core/geometry';
import { type FrameReport, type GasFrame, type GasOptions, STAGES, solveGas } from '#core/gas';
import { formsOf } from '#core/mesh';
import type { Team } from '#kernels';
import { ballSoup, gasOptions, meshShape, solid, withTeam } from '#testing';
import { type Row, type Section, middle, row } from './section';

const clock = (): number => performance.now() / 1000;
const BALL = ballSoup(0.35, 40);

const ball = meshShape('ball', BALL, { centre: [2, 2.4, 2] });

/** A fifth of a window of n voxels a side: MacCormack, with confinement, a turbulence field and a mesh that moves through the matter, or without one of them. */
function setUp(n: number, frames: number, without: 'none' | 'confinement' | 'turbulence' | 'solid'): GasOptions {
  const base = gasOptions({
    voxelSize: 4 / n,
    lastFrame: frames,
    stepping: { minimum: 1, maximum: 1 },
    bounds: {
      mode: 'adaptive',
      limit: { min: [0, 0, 0], max: [4, 4, 4] },
      reach: 0.06,
      quietDensity: 0.01,
      quietHeat: 20,
      quietSpeed: 0.6,
    },
    matter: { scalarAdvection: 'maccormack', velocityAdvection: 'maccormack' },
  });
  const [source] = base.sources;
  if (!source) throw new Error('the harness has no source');
  return {
    ...base,
    sources: [{ ...source, shape: { kind: 'ball', centre: [2, 1.6, 2], radius: 0.93 }, noise: null, to: 1 }],
    forces: {
      ...base.forces,
      confinement: without === 'confinement' ? 0 : 0.3,
      turbulence: without === 'turbulence' ? null : { strength: 2, size: 0.8, change: 1, octaves: 3, seed: 1 },
    },
    solids:
      without === 'solid'
        ? []
        : [solid({ shape: ball, moves: { 'shape.centre.x': { kind: 'expression', text: '2 + 0.4 * sin(8 * time)' } } })],
  };
}

const run = (team: Team, options: GasOptions): Generator<GasFrame> =>
  solveGas(options, {
    team,
    clock,
    channels: { names: [] },
    cancelled: () => false,
    forms: (shape, spacing, band): Form =>
      formsOf(new Map([['ball', { kind: 'mesh', mesh: BALL, samples: null, rate: 0, count: 1 }]]))(shape, spacing, band),
  });

const KINDS = ['none', 'confinement', 'turbulence', 'solid'] as const;

export const features: Section = {
  id: 'features',
  title: 'A fifth of a 192³ window with confinement, turbulence and a moving mesh, all cores',
  async run({ quick }) {
    const n = quick ? 64 : 192;
    const frames = quick ? 7 : 8;
    const reports: FrameReport[][] = KINDS.map(() => []);
    await withTeam(2, async (a) =>
      withTeam(2, async (b) =>
        withTeam(2, async (c) =>
          withTeam(2, (d) => {
            // Frame by frame in turn: a busy moment hits all of them.
            const runs = [a, b, c, d].map((team, k) => run(team, setUp(n, frames, KINDS[k] ?? 'none')));
            for (let frame = 0; frame < frames; frame++) {
              runs.forEach((r, k) => {
                const next = r.next();
                if (next.done !== true && frame >= 3) reports[k]?.push(next.value.report);
              });
            }
          }),
        ),
      ),
    );
    const [all, ...others] = reports as [FrameReport[], ...FrameReport[][]];
    const work = (r: FrameReport): number => r.totalSeconds - r.seconds.writing;
    const rows: Row[] = [
      row('active', (middle(all.map((r) => r.activeVoxels)) / n ** 3) * 100, '% of the window'),
      row('a step, everything on', middle(all.map(work)), 's'),
      row('a step, everything on', (middle(all.map(work)) / middle(all.map((r) => r.activeVoxels))) * 1e9, 'ns a voxel'),
      ...STAGES.filter((s) => s !== 'writing').map((s) => row(`of it ${s}`, middle(all.map((r) => (100 * r.seconds[s]) / work(r))), '%')),
    ];
    others.forEach((list, k) => {
      // By voxel: a moving solid also wakes the air around it.
      const each = (r: FrameReport): number => work(r) / r.activeVoxels;
      const share = middle(all.map((r, i) => 100 * (1 - each(list[i] ?? r) / each(r))));
      rows.push(row(`share of a voxel's time, ${KINDS[k + 1] === 'solid' ? 'the moving mesh' : (KINDS[k + 1] ?? '')}`, share, '%'));
    });
    return rows;
  },
};
