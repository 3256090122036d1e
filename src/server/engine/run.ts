import { type GasReport, type SolveReport, isLiquidReport, mergedReport, opsOf } from '#core/passes';
import type { Plan, Settings } from '#core/shot';
import { type DiskGuard, frameFileName, geometryPath, previewFileName, stateFileName } from '#server/cache';
import { type FrameMessage, startBounds } from '#workers/node';
import { headOf } from './provenance';
import type { FrameToStore, Kept, StoredFrame } from './run-folder';
import { type RunningRun, runInto } from './run-into';

export interface RunInput {
  readonly shot: string;
  readonly variant: string;
  readonly settings: Settings;
  readonly plan: Plan;
  readonly folder: string;
  /** Where imported geometry lies. */
  readonly geometryFolder: string;
  readonly threads: number;
  readonly arenaBytes?: number;
  /** First frame whose file is wanted. */
  readonly writeFrom?: number;
  readonly disk: DiskGuard;
  /** Folders whose earlier contents may be replaced. */
  readonly overwrite?: readonly string[];
  /** Whether states are kept on the way, so that it can go on when it is interrupted; `meanwhile`: and none once it is done. */
  readonly states?: boolean | 'meanwhile';
  /** Goes on from what an interrupted run left. */
  readonly resume?: Resume;
  readonly onFrame?: (frame: StoredFrame<SolveReport>) => Promise<void> | void;
  readonly onProgress?: (frame: number, part: number) => void;
}

export interface Resume extends Kept {
  /** State that each bounds begins with; null: the start. */
  readonly from: readonly (Uint8Array<ArrayBuffer> | null)[];
  /** Last frame that is missing; null: none is. */
  readonly until: number | null;
}

/** Computes a solve's plan into a folder. The server and the command line both run exactly this. */
export function startRun(input: RunInput): RunningRun {
  const { plan, threads, resume } = input;
  const ops = opsOf(plan);
  const key = ops.key(plan);
  return runInto({
    head: headOf(input, key),
    folder: input.folder,
    output: { reads: [], range: rangeOf(input), overwrite: input.overwrite ?? [] },
    disk: input.disk,
    threads,
    kept: resume,
    keepStates: input.states !== 'meanwhile',
    onFrame: input.onFrame,
    begin: (store) =>
      resume?.until === null
        ? null
        : startBounds({
            plan,
            key,
            geometry: Object.fromEntries(ops.geometry(plan).map((hash) => [hash, geometryPath(input.geometryFolder, hash)])),
            threads,
            ...(input.arenaBytes === undefined ? {} : { arenaBytes: input.arenaBytes }),
            ...(input.writeFrom === undefined ? {} : { writeFrom: input.writeFrom }),
            states: input.states !== undefined && input.states !== false,
            ...(resume ? { from: resume.from, have: resume.frames.map((f) => f.frame), until: resume.until } : {}),
            onFrame: (messages) => store(frameOf(plan, messages)),
            ...(input.onProgress ? { onProgress: input.onProgress } : {}),
          }),
  });
}

/** First and last frame whose files it writes. */
function rangeOf({ plan, writeFrom, resume }: RunInput): [number, number] {
  const { first, last, preRoll } = opsOf(plan).range(plan);
  return [writeFrom ?? first - preRoll, Math.max(last, resume?.until ?? last)];
}

/** A frame of all bounds under the names of its files. */
function frameOf(plan: Plan, messages: readonly FrameMessage[]): FrameToStore<SolveReport> {
  const report = reportOf(messages.map((m) => m.report));
  const { frame } = report;
  const { partName, gives } = opsOf(plan);
  const extension = gives(plan).output === 'ply' ? 'ply' : 'vdb';
  return {
    frame,
    inRange: messages[0]?.inRange ?? false,
    report,
    parts: messages.flatMap(({ file, previews, volumes }, n) => {
      const pass = partName(plan, n);
      if (!file) return [];
      return [
        {
          main: { file: frameFileName(pass, frame, extension), bytes: file },
          beside: [
            ...(volumes ? [{ file: frameFileName(`${pass}-volumes`, frame), bytes: volumes }] : []),
            ...previews.map((p) => ({ file: previewFileName(pass, frame, p.channel), bytes: p.bytes })),
          ],
        },
      ];
    }),
    states: messages.flatMap(({ state }, bounds) =>
      state ? [{ bounds, file: stateFileName(partName(plan, bounds), frame), bytes: state }] : [],
    ),
  };
}

/** One report of those of its bounds; a liquid has one. */
function reportOf(reports: readonly SolveReport[]): SolveReport {
  const [first] = reports;
  return first && isLiquidReport(first) ? first : mergedReport(reports as readonly GasReport[]);
}
