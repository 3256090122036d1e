import { deflateSync } from 'node:zlib';
import { encodePreview, makePreview, writeFrameFile } from '#core/formats';
import { type GasFrame, solveGas } from '#core/gas';
import { type LiquidFrame, solveLiquid } from '#core/liquid';
import { type AnyGeometry, formsOf, picturesOf } from '#core/mesh';
import type { SolveReport } from '#core/passes';
import { type GasPlan, type LiquidPlan, isLiquidPlan, optionsOf } from '#core/shot';
import type { Team } from '#kernels';
import type { ComputeStart, PreviewBytes } from '#protocol';
import { liquidFile, liquidPreview } from '#workers/common';
import { frameFileId } from './file-id';

/** A frame's file, and what the page looks at. */
export interface FrameBytes {
  readonly file: Uint8Array<ArrayBuffer>;
  readonly previews: readonly PreviewBytes[];
  /** Volumes beside particles; null: none are kept. */
  readonly volumes: Uint8Array<ArrayBuffer> | null;
}

/** A frame of a solve of any kind. */
export interface SolvedFrame {
  readonly report: SolveReport;
  readonly inRange: boolean;
  readonly state: () => Uint8Array<ArrayBuffer>;
  readonly encode: () => FrameBytes;
}

interface Environment {
  readonly team: Team;
  readonly clock: () => number;
  readonly geometries: ReadonlyMap<string, AnyGeometry>;
  readonly progress: (frame: number, part: number) => void;
}

const packed = (bytes: Uint8Array): Uint8Array<ArrayBuffer> => new Uint8Array(deflateSync(bytes, { level: 1 }));

/** Frames of a plan's bounds, one after the other. */
export function* solveFrames(start: ComputeStart, environment: Environment): Generator<SolvedFrame> {
  const { plan } = start;
  if (isLiquidPlan(plan)) yield* liquidFrames(plan, start, environment);
  else yield* gasFrames(plan, start, environment);
}

function* gasFrames(plan: GasPlan, start: ComputeStart, { team, clock, geometries, progress }: Environment): Generator<SolvedFrame> {
  const options = optionsOf(plan)[start.bounds] ?? plan.options;
  const frames = solveGas(options, {
    forms: formsOf(geometries),
    pictures: picturesOf(geometries),
    team,
    clock,
    channels: { names: plan.keep.channels },
    cancelled: team.cancelled,
    from: start.from,
    progress,
  });
  const encode = ({ grids, report }: GasFrame): FrameBytes => {
    const { keep, file } = plan;
    const bytes = writeFrameFile(grids, {
      voxelSize: options.voxelSize,
      metresPerUnit: file.metresPerUnit,
      timeScale: file.timeScale,
      upAxis: file.upAxis,
      precision: keep.precision,
      compression: keep.compression,
      uuid: frameFileId(start.key, start.bounds, report.frame),
    });
    const [ox, oy, oz, nx, ny, nz] = report.window;
    const previews = grids.map((grid): PreviewBytes => ({
      channel: grid.name,
      bytes: packed(encodePreview(makePreview(grid, { ox, oy, oz, nx, ny, nz }))),
    }));
    return { file: bytes, previews, volumes: null };
  };
  for (const frame of frames) yield { ...frame, encode: () => encode(frame) };
}

function* liquidFrames(plan: LiquidPlan, start: ComputeStart, { team, clock, geometries, progress }: Environment): Generator<SolvedFrame> {
  const frames = solveLiquid(plan.options, {
    forms: formsOf(geometries),
    team,
    clock,
    cancelled: team.cancelled,
    volumes: plan.keep.volumes,
    from: start.from,
    progress,
  });
  const encode = ({ cloud, volumes, report }: LiquidFrame): FrameBytes => {
    const particles = cloud();
    const grids = volumes();
    return {
      file: liquidFile(particles, plan),
      previews: [{ channel: 'points', bytes: packed(liquidPreview(particles)) }],
      volumes:
        grids.length === 0
          ? null
          : writeFrameFile(grids, {
              ...plan.file,
              voxelSize: plan.options.voxelSize,
              precision: 'half',
              compression: 'blosc',
              uuid: frameFileId(start.key, start.bounds, report.frame),
            }),
    };
  };
  for (const frame of frames) yield { ...frame, encode: () => encode(frame) };
}
