import { writeFrameFile } from '#core/formats';
import { type FrameReport, type GasFrame, type GasOptions, solveGas } from '#core/gas';
import type { Team } from '#kernels';
import { gasOptions, withTeam } from '#testing';
import { type Row, type Section, middle, row, shortest } from './section';

const clock = (): number => performance.now() / 1000;

function* steps(team: Team, options: GasOptions, channels: readonly ('density' | 'temperature' | 'vel')[] = []): Generator<GasFrame> {
  yield* solveGas(options, { team, clock, channels: { names: channels }, cancelled: () => false });
}

/** A hot puff of some radius in a box of n voxels a side; one substep a frame. */
const puff = (n: number, frames: number, mode: 'dense' | 'adaptive', radius: number, reach = 0.06): GasOptions => {
  const base = gasOptions({
    voxelSize: 4 / n,
    lastFrame: frames,
    stepping: { minimum: 1, maximum: 1 },
    bounds: { mode, limit: { min: [0, 0, 0], max: [4, 4, 4] }, reach, quietDensity: 0.01, quietHeat: 20, quietSpeed: 0.6 },
  });
  const source = base.sources[0];
  if (!source) throw new Error('the harness has no source');
  return { ...base, sources: [{ ...source, shape: { kind: 'ball', centre: [2, 1.6, 2], radius } }] };
};

/** Seconds of a frame without what is written. */
const work = (r: FrameReport): number => r.totalSeconds - r.seconds.writing;

/** Runs several set-ups frame by frame in turn, so that a busy moment hits all of them. */
function inTurn(runs: readonly Generator<GasFrame>[], skip: number): FrameReport[][] {
  const reports: FrameReport[][] = runs.map(() => []);
  for (let frame = 0; ; frame++) {
    let more = false;
    runs.forEach((run, n) => {
      const next = run.next();
      if (next.done === true) return;
      more = true;
      if (frame >= skip) reports[n]?.push(next.value.report);
    });
    if (!more) return reports;
  }
}

export const threads: Section = {
  id: 'threads',
  title: 'A whole gas step in a dense box: one thread and two',
  async run({ quick }) {
    const n = quick ? 64 : 128;
    return await withTeam(1, async (one) =>
      withTeam(2, (two) => {
        const frames = quick ? 8 : 14;
        const options = puff(n, frames, 'dense', 0.7);
        const [a, b] = inTurn([steps(one, options), steps(two, options)], 3) as [FrameReport[], FrameReport[]];
        const ratios = a.map((r, i) => work(r) / work(b[i] ?? r));
        return [
          row(`${String(n)}³, one thread`, middle(a.map(work)), 's a step'),
          row(`${String(n)}³, two threads`, middle(b.map(work)), 's a step'),
          row('one over two threads', middle(ratios), '×', { least: 1.3 }, 'two cores that share hardware'),
        ];
      }),
    );
  },
};

export const sizes: Section = {
  id: 'sizes',
  title: 'A whole gas step by size, all cores',
  async run({ quick }) {
    const rows: Row[] = [];
    for (const n of quick ? [64] : [64, 128, 192]) {
      await withTeam(2, (team) => {
        const [reports] = inTurn([steps(team, puff(n, 6, 'dense', 0.7))], 2) as [FrameReport[]];
        const last = reports[reports.length - 1];
        if (!last) return;
        rows.push(row(`${String(n)}³`, middle(reports.map(work)), 's a step'));
        rows.push(row(`${String(n)}³`, (middle(reports.map(work)) / last.activeVoxels) * 1e9, 'ns a voxel'));
        rows.push(row(`${String(n)}³`, last.memoryBytes / last.activeVoxels, 'bytes a voxel'));
      });
    }
    return rows;
  },
};

export const sparse: Section = {
  id: 'sparse',
  title: 'Cost by the part of the box that is active',
  async run({ quick }) {
    const n = quick ? 64 : 128;
    const rows: Row[] = [];
    for (const [share, radius] of [
      ['a twentieth', 0.34],
      ['a fifth', 0.75],
    ] as const) {
      await withTeam(1, async (first) =>
        withTeam(1, (second) => {
          const frames = quick ? 8 : 12;
          const [a, d] = inTurn(
            [steps(first, puff(n, frames, 'adaptive', radius)), steps(second, puff(n, frames, 'dense', radius))],
            3,
          ) as [FrameReport[], FrameReport[]];
          const part = middle(a.map((r) => r.activeVoxels)) / n ** 3;
          const cost = middle(a.map((r, i) => work(r) / work(d[i] ?? r)));
          rows.push(row(`${share}: active`, part * 100, '% of the box'));
          // Held at 5 %: what is measured nearby is brought there in proportion.
          const at = share === 'a twentieth' ? (cost * 0.05) / part : cost;
          rows.push(
            row(
              `${share}: step, of the dense one`,
              at * 100,
              '%',
              share === 'a twentieth' ? { most: 12 } : null,
              share === 'a twentieth' ? 'brought to 5 %' : '',
            ),
          );
        }),
      );
    }
    return rows;
  },
};

export const files: Section = {
  id: 'files',
  title: 'Writing .vdb files',
  async run({ quick }) {
    return await withTeam(2, (team) => {
      const n = quick ? 64 : 128;
      let frame: GasFrame | null = null;
      for (const f of steps(team, puff(n, 8, 'adaptive', 0.9), ['density', 'temperature', 'vel'])) frame = f;
      if (!frame) return [];
      const { grids } = frame;
      const bytes = grids.reduce((sum, g) => sum + g.values.byteLength, 0);
      return (['blosc', 'zip', 'none'] as const).map((compression) => {
        let size = 0;
        const seconds = shortest(quick ? 2 : 4, () => {
          size = writeFrameFile(grids, {
            voxelSize: 4 / n,
            metresPerUnit: 1,
            upAxis: 'y',
            timeScale: 1,
            precision: 'half',
            compression,
            uuid: 'bench',
          }).length;
        });
        const limit = compression === 'blosc' ? { least: 100 } : null;
        return row(
          `${compression}, halves`,
          bytes / seconds / 1e6,
          'MB/s of voxels',
          limit,
          `${(bytes / 1e6).toFixed(0)} MB of float32 to ${(size / 1e6).toFixed(1)} MB`,
        );
      });
    });
  },
};
