import { BYTES_AN_ENTRY, type LiquidOptions, type LiquidReport, bytesEachParticle } from '#core/liquid';
import { body, boxOf, liquidOptions, withTeam } from '#testing';
import { solveLiquid } from '#core/liquid';
import { liquidReference } from './native';
import { type Section, middle, row } from './section';

/** Substeps are all the same: what moves slowly needs one a frame. */
const FRAMES = 7;
const WARM = 2;

interface Ran {
  /** Of one substep, by stage and whole, seconds. */
  readonly stage: (name: keyof LiquidReport['seconds']) => number;
  readonly whole: number;
  readonly last: LiquidReport;
}

/** Reports of a run, the first of which nothing is told by. */
async function run(options: LiquidOptions, threads: number, frames = FRAMES): Promise<Ran> {
  return withTeam(threads, (team) => {
    const reports: LiquidReport[] = [];
    const environment = { team, clock: () => performance.now() / 1000, cancelled: () => false };
    for (const { report } of solveLiquid({ ...options, lastFrame: options.firstFrame + frames - 1 }, environment)) reports.push(report);
    const told = reports.slice(WARM);
    const of = (pick: (r: LiquidReport) => number): number => middle(told.map((r) => pick(r) / Math.max(1, r.substepsUsed)));
    const last = reports[reports.length - 1];
    if (!last) throw new Error('no frame');
    return { stage: (name) => of((r) => r.seconds[name]), whole: of((r) => Object.values(r.seconds).reduce((a, b) => a + b, 0)), last };
  });
}

const H = 0.02;
const voxels = (x: number, y: number, z: number): readonly [number, number, number] => [x * H, y * H, z * H];

/** A body in a corner of a window, so many voxels each way, that begins to fall apart. */
const dam = (
  body_: readonly [number, number, number],
  room: readonly [number, number, number],
  changes: Partial<LiquidOptions> = {},
): LiquidOptions =>
  liquidOptions({
    voxelSize: H,
    framesPerSecond: 192,
    bounds: { mode: 'fixed', limit: { min: [0, 0, 0], max: voxels(...room) } },
    sources: [body(boxOf([0, 0, 0], voxels(...body_)))],
    ...changes,
  });

export const liquid: Section = {
  id: 'liquid',
  title: 'A million particles of liquid in a window of 128 voxels, a substep',
  async run({ quick, say }) {
    const size = quick ? ([32, 32, 32] as const) : ([64, 32, 64] as const);
    const options = dam(size, [128, 128, 128]);
    const one = await run(options, 1);
    const two = await run(options, 2);
    const reference = quick ? null : liquidReference(say);
    const native = reference?.(FRAMES) ?? null;
    const ratio = (own: number, theirs: number): number => own / theirs;
    const stages = ['sorting', 'transfer', 'surface', 'forces', 'pressure', 'volume', 'moving'] as const;
    const rows = stages.map((name) => row(`${name}, one thread`, 1000 * one.stage(name), 'ms'));
    if (native) {
      const ours = (['sorting', 'transfer', 'surface', 'moving'] as const).reduce((n, s) => n + one.stage(s), 0);
      rows.push(
        row(
          'particles to grid with their sorting, over plain C++',
          ratio(one.stage('sorting') + one.stage('transfer'), native.sorting + native.transfer),
          'x',
          { most: 1 },
        ),
        row('signed distance, over plain C++', ratio(one.stage('surface'), native.surface), 'x'),
        row('grid to particles, over plain C++', ratio(one.stage('moving'), native.moving), 'x', { most: 0.55 }),
        row('all of these, over plain C++', ratio(ours, native.sorting + native.transfer + native.surface + native.moving), 'x', {
          most: 1.4,
        }),
      );
    }
    rows.push(row('one thread over two', one.whole / two.whole, 'x', { least: 1.4 }));
    const room = quick ? ([32, 40, 32] as const) : ([64, 80, 64] as const);
    const full = await run(dam([room[0], room[1] * 0.95, room[2]], room), 1, 5);
    const twentieth = await run(dam([room[0], room[1] * 0.05, room[2]], room), 1, 5);
    rows.push(row('a box a twentieth full, over a full one', twentieth.whole / full.whole, 'x', { most: 0.08 }));
    const wide = quick ? ([40, 20, 40] as const) : ([96, 24, 96] as const);
    const all = await run(dam(wide, [wide[0], 40, wide[2]]), 1, 5);
    const few = await run(dam(wide, [wide[0], 40, wide[2]], { particles: { ...options.particles, band: 3 } }), 1, 5);
    rows.push(
      row(
        `particles of a pool ${String(wide[1])} voxels deep with a fine layer of 3, over all`,
        few.last.particles / all.last.particles,
        'x',
        { most: 0.5 },
      ),
      row('its time over all', few.whole / all.whole, 'x'),
      row('memory a particle, affine', bytesEachParticle(true), 'bytes'),
      row('memory a particle, FLIP', bytesEachParticle(false), 'bytes'),
      row('memory a voxel of the window, pressure levels left out', BYTES_AN_ENTRY, 'bytes'),
    );
    say(`${String(one.last.particles)} particles`);
    return rows;
  },
};
