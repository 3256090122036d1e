import { useEffect } from 'react';
import { useStore } from 'zustand';
import { costFrame, expectedVoxels, predict } from '#core/cost';
import { type Plan, canonicalJson } from '#core/shot';
import type { EvidenceDto } from '#protocol';
import { api } from './api';
import { queryClient } from './queries';
import { useSheet, useSolve } from './sheet';
import { type Sketch, type SketchState, createSketch } from './sketch';

/** Threads of a browser's Sketch: one is left to the page, which draws. */
export const threads = (): number => Math.max(1, Math.min(4, navigator.hardwareConcurrency));

let main: Sketch | null = null;
/** The Sketch of the Bench: one a page. */
export const mainSketch = (): Sketch => (main ??= createSketch(threads(), undefined, expected));

/** The shot that is on the Bench. */
let shown = '';

/** Voxels that a Sketch will have: from what was run of the shot, else from its settings. */
function expected(plan: Plan): number {
  const evidence = queryClient.getQueryData<EvidenceDto>(['evidence', shown]);
  return evidence ? predict(plan, evidence.runs, evidence.knowledge).voxels.likely : expectedVoxels(plan);
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
    void api
      .keepSketch(
        shotId,
        settings,
        factor,
        frames.map((f) => costFrame(f.report, 0)),
      )
      .catch(() => undefined);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once for each plan that was computed to its end
  }, [done, plan && canonicalJson(plan), shotId]);
}
