import { type UseQueryResult, useQuery } from '@tanstack/react-query';
import { useCallback, useMemo } from 'react';
import { type AnyCostRun, type DetailedPrediction, costRunsOf, liquidCostFrame, predict } from '#core/cost';
import { type GasReport, isLiquidReport } from '#core/passes';
import { type Plan, RUNGS, isLiquidPlan, type Rung, type SolveSettings, type ShotFields, resolvePlan } from '#core/shot';
import type { EvidenceDto, ShotDto } from '#protocol';
import { api } from './api';
import { useMainSketch } from './main-sketch';

/** What predictions of a shot are made from; looked at anew when a run ends. */
export const useEvidence = (slug: string): UseQueryResult<EvidenceDto> =>
  useQuery({ queryKey: ['evidence', slug], queryFn: () => api.evidence(slug) });

/** Fewer frames of a Sketch say too little about the rest. */
const ENOUGH = 12;

/** A Sketch that goes on is evidence already: the next prediction rests on the very settings that are on the sheet. */
function useSketchRuns(): readonly AnyCostRun[] {
  const sketch = useMainSketch();
  const { plan, computing } = sketch;
  // Not with every frame: when it is done, and every so many frames until then.
  const frames = computing ? Math.floor(sketch.frames.length / 24) * 24 : sketch.frames.length;
  return useMemo(() => {
    if (!plan || frames < ENOUGH) return [];
    const run = {
      id: sketch.id,
      title: 'the Sketch',
      origin: 'browser',
      threads: 1,
    } as const;
    const reports = sketch.frames.slice(0, frames).map((f) => f.report);
    if (isLiquidPlan(plan)) return [{ ...run, plan, frames: reports.flatMap((r) => (isLiquidReport(r) ? [liquidCostFrame(r, 0)] : [])) }];
    return costRunsOf(
      { ...run, plan },
      reports.map((report) => ({ report: report as GasReport, bytes: 0 })),
    );
    // eslint-disable-next-line react-hooks/exhaustive-deps -- sketch.frames grows with each frame; `frames` says when to look
  }, [plan, frames, sketch.id]);
}

export interface Predictor {
  /** null while what it needs is on its way. */
  readonly ofPlan: (plan: Plan) => DetailedPrediction | null;
  readonly of: (settings: SolveSettings, rung: Rung) => DetailedPrediction | null;
}

/** Predicts for a shot: pure, in the page, fast enough to follow a hand that drags. */
export function usePredictor(shot: ShotDto, fields: ShotFields): Predictor {
  const evidence = useEvidence(shot.slug).data;
  const live = useSketchRuns();
  const runs = useMemo(() => (evidence ? [...live, ...evidence.runs] : null), [evidence, live]);
  const ofPlan = useCallback((plan: Plan) => (evidence && runs ? predict(plan, runs, evidence.knowledge) : null), [evidence, runs]);
  const of = useCallback(
    (settings: SolveSettings, rung: Rung) => ofPlan(resolvePlan(fields, settings, rung, RUNGS[rung])),
    [ofPlan, fields],
  );
  return useMemo(() => ({ ofPlan, of }), [ofPlan, of]);
}
