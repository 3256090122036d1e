import { type FollowerPlan, type FollowerReport, definitionOf, opsOf } from '#core/passes';
import type { Settings } from '#core/shot';
import type { PassInputs } from '#protocol';
import { type DiskGuard, frameFileName, geometryPath, previewFileName, stateFileName } from '#server/cache';
import { type PassFrameMessage, startPass } from '#workers/node';
import { headOf } from './provenance';
import type { FrameToStore, Kept, StoredFrame, StoredState } from './run-folder';
import { type RunningRun, runInto } from './run-into';

export interface PassRunInput {
  readonly shot: string;
  readonly variant: string;
  readonly settings: Settings;
  readonly plan: FollowerPlan;
  readonly key: string;
  readonly inputs: PassInputs;
  readonly folder: string;
  readonly geometryFolder: string;
  readonly threads: number;
  readonly disk: DiskGuard;
  /** Folders whose earlier contents may be replaced. */
  readonly overwrite?: readonly string[];
  readonly resume?: PassResume;
  readonly onFrame?: (frame: StoredFrame<FollowerReport>) => Promise<void> | void;
  /** A state of a frame that is none of the range was stored. */
  readonly onState?: (state: StoredState) => Promise<void> | void;
}

export interface PassResume extends Kept {
  /** State to begin with, of a pass whose frames follow each other. */
  readonly from: { readonly frame: number; readonly bytes: Uint8Array<ArrayBuffer> } | null;
}

/** Computes a pass's plan into a folder, from the files of what it reads. */
export function startPassRun(input: PassRunInput): RunningRun {
  const { plan, key, threads, resume } = input;
  const reads = [...new Set(Object.values(input.inputs).map((i) => i.folder))];
  return runInto({
    head: headOf(input, key),
    folder: input.folder,
    output: { reads, range: [plan.frames.first, plan.frames.last], overwrite: input.overwrite ?? [] },
    disk: input.disk,
    threads,
    kept: resume,
    onFrame: input.onFrame,
    onState: input.onState,
    index: indexOf(plan),
    begin: (store, keep) =>
      startPass({
        plan,
        key,
        inputs: input.inputs,
        geometry: Object.fromEntries(
          opsOf(plan)
            .geometry(plan)
            .map((hash) => [hash, geometryPath(input.geometryFolder, hash)]),
        ),
        threads,
        have: resume?.frames.map((f) => f.frame) ?? [],
        from: resume?.from ?? null,
        states: true,
        onFrame: (message) => store(frameOf(plan, message)),
        onState: (frame, bytes) => keep({ bounds: 0, file: stateFileName(plan.pass, frame), bytes }, frame),
      }),
  });
}

/** What other programs are told of a run's frames, where its kind says anything. */
function indexOf(plan: FollowerPlan): { readonly file: string; readonly text: string } | undefined {
  const text = definitionOf(plan.pass).index?.(plan);
  return text && { file: `${plan.pass}.json`, text: `${JSON.stringify(text, null, 1)}\n` };
}

function frameOf(plan: FollowerPlan, { report, parts, state }: PassFrameMessage): FrameToStore<FollowerReport> {
  const { frame } = report;
  const { partName } = opsOf(plan);
  return {
    frame,
    inRange: true,
    report,
    parts: parts.map(({ extension, bytes, previews }, n) => ({
      main: { file: frameFileName(partName(plan, n), frame, extension), bytes },
      beside: previews.map((p) => ({ file: previewFileName(partName(plan, n), frame, p.channel), bytes: p.bytes })),
    })),
    states: state ? [{ bounds: 0, file: stateFileName(plan.pass, frame), bytes: state }] : [],
  };
}
