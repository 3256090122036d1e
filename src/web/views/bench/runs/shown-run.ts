import { useMemo } from 'react';
import { type Rung, SOLVE, canonicalJson, isLiquidPlan, rungTitle, solveOf } from '#core/shot';
import type { FrameDto, RunDto, ShotDto } from '#protocol';
import { useMainSketch, useRun, type SketchState } from '#web/state';

/** What the Bench shows: a run of the server, or the Sketch, which looks like one. */
export interface ShownRun extends Omit<RunDto, 'rung'> {
  readonly rung: Rung;
}

/** The Sketch's name in the address. */
export const SKETCH = 'sketch';

export const runTitle = (run: ShownRun | RunDto): string =>
  run.rung === 'sketch' ? 'Sketch' : `${rungTitle[run.rung]} · run ${String(run.number)}`;

function asRun(sketch: SketchState, shot: ShotDto, variantId: string): ShownRun | null {
  const { plan, frames } = sketch;
  if (!plan) return null;
  const { firstFrame, lastFrame, preRoll } = plan.options;
  return {
    id: sketch.id,
    number: 0,
    shotId: shot.id,
    passId: SOLVE,
    kind: isLiquidPlan(plan) ? 'liquid' : 'gas',
    variantId,
    rung: 'sketch',
    // A Sketch is always of what is on the sheet.
    key: '',
    state: sketch.computing ? 'running' : sketch.error ? 'failed' : frames.length > 0 ? 'done' : 'cancelled',
    error: sketch.error,
    createdAt: 0,
    startedAt: null,
    endedAt: null,
    frameCount: lastFrame - firstFrame + preRoll + 1,
    firstFrame,
    preRoll,
    voxelSize: plan.options.voxelSize,
    damagedFrames: 0,
    missingFrames: 0,
    framesDone: frames.length,
    seconds: frames.reduce((n, f) => n + f.report.totalSeconds, 0),
    bytes: 0,
    memoryBytes: frames.reduce((n, f) => Math.max(n, f.report.memoryBytes), 0),
    freed: false,
    approved: false,
    restorable: false,
    folder: '',
    plan,
    codeVersion: '',
    prediction: null,
    notes: '',
  };
}

/**
 * The run that is shown: the one in the address, else the newest of the variant with frames, else the newest of it, else one of the variants that it comes
 * from: a variant that differs in its passes only has none of its own.
 */
function pickRun(shot: ShotDto, variantId: string, wanted: string | null): RunDto | null {
  const named = shot.runs.find((r) => r.id === wanted);
  if (named) return named;
  const own = shot.runs.filter((r) => r.variantId === variantId && !r.freed);
  if (own.length === 0) return ofParent(shot, variantId);
  return own.findLast((r) => r.framesDone > 0) ?? own[own.length - 1] ?? null;
}

/** The newest run of the nearest parent whose solve is the same: only its passes differ. */
function ofParent(shot: ShotDto, variantId: string): RunDto | null {
  const variant = shot.variants.find((v) => v.id === variantId);
  let parent = shot.variants.find((v) => v.id === variant?.parentId);
  for (let n = 0; parent && variant && n < shot.variants.length; n++) {
    const { id, parentId, settings } = parent;
    if (canonicalJson(solveOf(settings)) !== canonicalJson(solveOf(variant.settings))) return null;
    const run = shot.runs.findLast((r) => r.variantId === id && !r.freed && r.framesDone > 0);
    if (run) return run;
    parent = shot.variants.find((v) => v.id === parentId);
  }
  return null;
}

/** A run and its frames in order. */
export interface Shown {
  readonly run: ShownRun | null;
  readonly frames: readonly FrameDto[];
  readonly stored: ReadonlySet<number>;
  readonly error: Error | null;
}

export function useShown(shot: ShotDto, variantId: string, wanted: string | null): Shown {
  const sketch = useMainSketch();
  const sketching = wanted === SKETCH;
  const picked = sketching ? null : pickRun(shot, variantId, wanted);
  const detail = useRun(picked?.id ?? null);
  const run = useMemo(() => (sketching ? asRun(sketch, shot, variantId) : picked), [sketching, sketch, shot, variantId, picked]);
  const given = sketching ? sketch.frames : detail.data?.frames;
  const frames = useMemo(() => [...(given ?? [])].sort((a: FrameDto, b: FrameDto) => a.frame - b.frame), [given]);
  const stored = useMemo(() => new Set(frames.filter((f) => f.stored).map((f) => f.frame)), [frames]);
  return { run, frames, stored, error: detail.error };
}

/** The frame to show: the wanted one, or while it is not there yet, the newest before it. */
export function frameOf(shown: Shown, wanted: number | null): number | null {
  const newest = shown.frames.findLast((f) => f.stored)?.frame ?? null;
  if (wanted === null) return newest;
  if (shown.stored.has(wanted) || shown.run?.state !== 'running') return wanted;
  return shown.frames.findLast((f) => f.stored && f.frame <= wanted)?.frame ?? null;
}
