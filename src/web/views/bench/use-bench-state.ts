import { useMemo } from 'react';
import { findForSheet } from '#core/checks';
import { type DetailedPrediction, allAhead, foreseenFrames } from '#core/cost';
import { type Path, type Rung, SOLVE, solveOf } from '#core/shot';
import type { ShotDto, VariantDto } from '#protocol';
import { type SolveLoads, usePassFindings, usePassStates, usePredictor, useRoute, useSheet } from '#web/state';
import type { BenchState } from './bench-context';
import type { MovingField } from './moves/moves';
import type { Shown } from './runs/shown-run';

interface Opening {
  readonly tryThree: (path: Path) => void;
  readonly makeMove: (field: MovingField) => void;
}

/** Derives what every part of the Bench looks at: predictions of the sheet, what the shot has cost, findings. */
export function useBenchState(shot: ShotDto, variant: VariantDto, shown: Shown, { tryThree, makeMove }: Opening): BenchState {
  const sheet = useSheet((s) => s.settings);
  const settings = solveOf(sheet);
  const fields = useSheet((s) => s.fields);
  const predictor = usePredictor(shot, fields);
  const predicted = useMemo(
    () => ({ test: predictor.of(settings, 'test'), final: predictor.of(settings, 'final') }),
    [predictor, settings],
  );
  const spent = useMemo(() => {
    const runs = [...shot.runs, ...shot.passRuns];
    const ahead = allAhead(runs);
    return {
      seconds: runs.reduce((n, r) => n + r.seconds, 0) + ahead.seconds,
      bytes: runs.reduce((n, r) => n + r.bytes, 0) + ahead.bytes,
      ahead,
    };
  }, [shot.runs, shot.passRuns]);
  const loads = useMemo((): SolveLoads => ({ test: loadOf(predicted.test), final: loadOf(predicted.final) }), [predicted]);
  const passes = usePassStates(shot, sheet, fields, loads);
  const wanted = useRoute().pass;
  const pass = passes.find((p) => p.id === wanted && p.id !== SOLVE) ?? null;
  const { run, frames } = shown;
  const used = shot.variants.find((v) => v.id === run?.variantId)?.settings ?? null;
  const rung: Rung = run?.rung ?? 'final';
  const findings = useMemo(() => {
    const base = run?.rung === 'sketch' ? settings : used && solveOf(used);
    return findForSheet({
      shot: fields,
      settings,
      rung,
      run: run && base && frames.length > 0 ? { plan: run.plan, settings: base, reports: frames.map((f) => f.report) } : null,
      prediction: predicted.final,
      spent,
    });
  }, [fields, settings, rung, run, used, frames, predicted.final, spent]);
  const passFindings = usePassFindings(passes, sheet, fields.budgets.memory);
  return useMemo(
    () => ({ shot, variant, shown, predictor, predicted, spent, loads, findings, passFindings, passes, pass, tryThree, makeMove }),
    [shot, variant, shown, predictor, predicted, spent, loads, findings, passFindings, passes, pass, tryThree, makeMove],
  );
}

/** What passes find in each frame of the solve, as predicted; null: nothing is. */
function loadOf(prediction: DetailedPrediction | null): ((frame: number) => number) | null {
  if (!prediction) return null;
  const elements = new Map(foreseenFrames(prediction).map((f) => [f.frame, f.elements]));
  return (frame) => elements.get(frame) ?? 0;
}
