import { type AnyPlan, type AnyReport, definitionOf } from '#core/passes';
import type { Settings } from '#core/shot';
import type { PassInputFiles } from '#protocol';
import { type DiskGuard, frameFileName, geometryPath, previewFileName, stateFileName } from '#server/cache';
import { type PassFrameMessage, startPass } from '#workers/node';
import { headOf } from './provenance';
import type { FrameToStore, Kept, StoredFrame } from './run-folder';
import { type RunningRun, runInto } from './run-into';

export interface PassRunInput {
  readonly shot: string;
  readonly variant: string;
  readonly settings: Settings;
  readonly plan: AnyPlan;
  readonly key: string;
  readonly input: PassInputFiles;
  readonly folder: string;
  readonly geometryFolder: string;
  readonly threads: number;
  readonly disk: DiskGuard;
  readonly resume?: PassResume;
  readonly onFrame?: (frame: StoredFrame<AnyReport>) => Promise<void> | void;
}

export interface PassResume extends Kept {
  /** State to begin with, of a pass whose frames follow each other. */
  readonly from: { readonly frame: number; readonly bytes: Uint8Array<ArrayBuffer> } | null;
}

/** Computes a pass's plan into a folder, from the files of what it reads. */
export function startPassRun(input: PassRunInput): RunningRun {
  const { plan, key, threads, resume } = input;
  return runInto({
    head: headOf(input, key),
    folder: input.folder,
    disk: input.disk,
    threads,
    kept: resume,
    onFrame: input.onFrame,
    begin: (store) =>
      startPass({
        plan,
        key,
        input: input.input,
        geometry: Object.fromEntries(
          definitionOf(plan.pass)
            .geometry(plan.body)
            .map((hash) => [hash, geometryPath(input.geometryFolder, hash)]),
        ),
        threads,
        have: resume?.frames.map((f) => f.frame) ?? [],
        from: resume?.from ?? null,
        states: true,
        onFrame: (message) => store(frameOf(plan, message)),
      }),
  });
}

/** Names of a pass's parts: `resample`, `resample-2`. */
export const partName = (pass: string, n: number): string => (n === 0 ? pass : `${pass}-${String(n + 1)}`);

function frameOf({ pass }: AnyPlan, { report, parts, state }: PassFrameMessage): FrameToStore<AnyReport> {
  const { frame } = report;
  return {
    frame,
    inRange: true,
    report,
    parts: parts.map(({ extension, bytes, previews }, n) => ({
      main: { file: frameFileName(partName(pass, n), frame, extension), bytes },
      previews: previews.map((p) => ({ file: previewFileName(partName(pass, n), frame, p.channel), bytes: p.bytes })),
    })),
    states: state ? [{ bounds: 0, file: stateFileName(pass, frame), bytes: state }] : [],
  };
}
