import { useEffect } from 'react';
import { useStore } from 'zustand';
import { type CostFrame, type LiquidCostFrame, costFrame, liquidCostFrame, predict } from '#core/cost';
import { type SolveReport, isLiquidReport } from '#core/passes';
import { type Plan, canonicalJson } from '#core/shot';
import type { EvidenceDto } from '#protocol';
import { api } from './api';
import { queryClient } from './queries';
import { useSheet, useSolve } from './sheet';
import { PARTICLES_A_VOXEL, type Sketch, type SketchState, createSketch, expectedLoad } from './sketch';

/** Threads of a browser's Sketch: one is left to the page, which draws. */
export const threads = (): number => Math.max(1, Math.min(4, navigator.hardwareConcurrency));

let main: Sketch | null = null;
/** The Sketch of the Bench: one a page. */
export const mainSketch = (): Sketch => (main ??= createSketch(threads(), undefined, expected));

/** The shot that is on the Bench. */
let shown = '';

/** What the cost model reads of a Sketch: of one kind, as a Sketch is. */
const costFramesOf = (reports: readonly SolveReport[]): (CostFrame | LiquidCostFrame)[] =>
  reports.map((r) => (isLiquidReport(r) ? liquidCostFrame(r, 0) : costFrame(r, 0)));

/** Voxels that a Sketch will have: from what was run of the shot, else from its settings. */
function expected(plan: Plan): number {
  const evidence = queryClient.getQueryData<EvidenceDto>(['evidence', shown]);
  if (!evidence) return expectedLoad(plan);
  const { voxels, particles } = predict(plan, evidence.runs, evidence.knowledge);
  return particles ? particles.likely / PARTICLES_A_VOXEL : voxels.likely;
}

export const useMainSketch = (): SketchState => useStore(mainSketch());

const SAY_EVERY = 4000;

/** Tells the server while a Sketch computes: a Final steps down to one thread meanwhile. */
export function useTellSketching(computing: boolean): void {
  useEffect(() => {
    if (!computing) return undefined;
    const tell = (value: boolean): void => void api.sketching(value).catch(() => undefined);
    tell(true);
    const timer = setInterval(() => {
      tell(true);
    }, SAY_EVERY);
    return () => {
      clearInterval(timer);
      tell(false);
    };
  }, [computing]);
}

/** Keeps the Sketch on the settings of the sheet while it is on, and tells the server: that it works, and the loads that it found. */
export function useSketchLife(shotId: string, slug: string): void {
  const { on, computing, plan, factor, frames } = useMainSketch();
  const settings = useSolve();
  const fields = useSheet((s) => s.fields);
  useEffect(() => {
    shown = slug;
  }, [slug]);
  useEffect(() => {
    if (on) mainSketch().show(fields, settings);
  }, [on, settings, fields]);
  useEffect(
    () => () => {
      mainSketch().clear();
    },
    [shotId],
  );
  useTellSketching(computing);
  const done = on && !computing && plan !== null && frames.length > 8;
  useEffect(() => {
    if (!done) return;
    void api.keepSketch(shotId, settings, factor, costFramesOf(frames.map((f) => f.report))).catch(() => undefined);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once for each plan that was computed to its end
  }, [done, plan && canonicalJson(plan), shotId]);
}
