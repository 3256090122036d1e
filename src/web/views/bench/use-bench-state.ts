import { useMemo } from 'react';
import { findForSheet } from '#core/checks';
import type { Path, Rung } from '#core/shot';
import type { ShotDto, VariantDto } from '#protocol';
import { usePredictor, useSheet } from '#web/state';
import type { BenchState } from './bench-context';
import type { MovingField } from './moves/moves';
import type { Shown } from './runs/shown-run';

interface Opening {
  readonly tryThree: (path: Path) => void;
  readonly makeMove: (field: MovingField) => void;
}

/** Derives what every part of the Bench looks at: predictions of the sheet, what the shot has cost, findings. */
export function useBenchState(shot: ShotDto, variant: VariantDto, shown: Shown, { tryThree, makeMove }: Opening): BenchState {
  const settings = useSheet((s) => s.settings);
  const fields = useSheet((s) => s.fields);
  const predictor = usePredictor(shot, fields);
  const predicted = useMemo(
    () => ({ test: predictor.of(settings, 'test'), final: predictor.of(settings, 'final') }),
    [predictor, settings],
  );
  const spent = useMemo(
    () => ({ seconds: shot.runs.reduce((n, r) => n + r.seconds, 0), bytes: shot.runs.reduce((n, r) => n + r.bytes, 0) }),
    [shot.runs],
  );
  const { run, frames } = shown;
  const used = shot.variants.find((v) => v.id === run?.variantId)?.settings ?? null;
  const rung: Rung = run?.rung ?? 'final';
  const findings = useMemo(() => {
    const base = run?.rung === 'sketch' ? settings : used;
    return findForSheet({
      shot: fields,
      settings,
      rung,
      run: run && base && frames.length > 0 ? { plan: run.plan, settings: base, reports: frames.map((f) => f.report) } : null,
      prediction: predicted.final,
      spent,
    });
  }, [fields, settings, rung, run, used, frames, predicted.final, spent]);
  return useMemo(
    () => ({ shot, variant, shown, predictor, predicted, spent, findings, tryThree, makeMove }),
    [shot, variant, shown, predictor, predicted, spent, findings, tryThree, makeMove],
  );
}
