import { useMemo } from 'react';
import type { Prediction } from '#core/cost';
import { type PassState, type WouldBeStale, costOfInputs, staleAfter, useSheet } from '#web/state';
import { useBench } from '../bench-context';

const costOf = (p: Prediction | null) => (p ? { seconds: p.time?.likely ?? 0, bytes: p.disk.likely } : null);

/** What would be computed before a pass at each rung, because it reads it and it is not there. */
export function useInputCosts(pass: PassState | null): Readonly<Record<'test' | 'final', ReturnType<typeof costOfInputs>>> {
  const { passes, predicted } = useBench();
  const settings = useSheet((s) => s.settings);
  return useMemo(() => {
    const solve = { test: costOf(predicted.test), final: costOf(predicted.final) };
    const of = (rung: 'test' | 'final') => costOfInputs(passes, settings, solve, pass?.id ?? '', rung);
    return { test: of('test'), final: of('final') };
  }, [passes, predicted, settings, pass]);
}

/** What a change of a pass's settings would make stale, and what computing that again costs. */
export function useWouldBeStale(id: string): WouldBeStale {
  const { passes, predicted } = useBench();
  const settings = useSheet((s) => s.settings);
  return useMemo(
    () => staleAfter(passes, settings, { test: costOf(predicted.test), final: costOf(predicted.final) }, id),
    [passes, predicted, settings, id],
  );
}
