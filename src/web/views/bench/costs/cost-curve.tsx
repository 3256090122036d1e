import { type ReactElement, useCallback, useDeferredValue, useState } from 'react';
import { solveKindOf, parsedSolve, putAtPath, resolvePlan, type SolveSettings, valueAtPath } from '#core/shot';
import type { Unit } from '#core/units';
import { useSheet, useSolve } from '#web/state';
import { useBench } from '../bench-context';
import { type TimeAt, TimeCurve } from './time-curve';

interface CostCurveProps {
  readonly title: string;
  readonly path: readonly string[];
  readonly unit: Unit;
  /** Value at the left and at the right end, as factors on the present one. */
  readonly span: readonly [number, number];
  /** Value to draw from when the setting is "none". */
  readonly fallback?: (settings: SolveSettings) => number;
}

/** Predicted time of a Final over one of the solve's settings. */
export function CostCurve({ title, path, unit, span, fallback }: CostCurveProps): ReactElement {
  const { predictor, spent } = useBench();
  const settings = useSolve();
  const fields = useSheet((s) => s.fields);
  const edit = useSheet((s) => s.editSolve);
  const [dragged, setDragged] = useState<number | null>(null);
  // The range stands still while the point is dragged.
  const given = valueAtPath(settings, path);
  const value = typeof given === 'number' ? given : (fallback?.(settings) ?? 1);
  const [anchor, setAnchor] = useState(value);
  const [from, to] = [anchor * span[0], anchor * span[1]];
  const outside = value > Math.max(from, to) || value < Math.min(from, to);
  if (outside && dragged === null) setAnchor(value);
  const late = useDeferredValue(settings);
  const timeAt = useCallback<TimeAt>(
    (v) => {
      const changed = parsedSolve(solveKindOf(late), putAtPath(late, path, v));
      return changed && (predictor.ofPlan(resolvePlan(fields, changed, 'final'))?.time ?? null);
    },
    // eslint-disable-next-line react-hooks/exhaustive-deps -- path is a constant of the place where it stands
    [late, predictor, fields],
  );
  const name = /^[A-Z][a-z]/.test(title) ? title.charAt(0).toLowerCase() + title.slice(1) : title;
  return (
    <TimeCurve
      about={`The Final's time over ${name}`}
      title={title}
      unit={unit}
      value={value}
      from={from}
      to={to}
      timeAt={timeAt}
      left={Math.max(0, fields.budgets.time - spent.seconds)}
      onDrag={setDragged}
      onPut={(v) => void edit((s) => putAtPath(s, path, v) as SolveSettings)}
    />
  );
}
