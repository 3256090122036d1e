import { useEffect, useState } from 'react';
import { RUNGS, type Rung, resolvePlan } from '#core/shot';
import type { ShapeAnswers } from '#protocol';
import { say, useSheet, useSolve } from '#web/state';
import type { SliceSetting } from '#web/viewport';
import { askShapes } from '#workers/browser';

/** Settings are waited for until the hand rests, milliseconds. */
const SETTLE = 90;

/** A slice that is worked out from the sheet, as a run of the rung would meet it: the solids' distance, or the forces; null while it is off. */
export function useSheetSlice<K extends 'slice' | 'forces'>(
  kind: K,
  slice: SliceSetting | null,
  on: boolean,
  frame: number | null,
  rung: Rung,
): ShapeAnswers[K] | null {
  const settings = useSolve();
  const fields = useSheet((s) => s.fields);
  const [found, setFound] = useState<ShapeAnswers[K] | null>(null);
  const axis = slice ? ({ x: 0, y: 1, z: 2 } as const)[slice.axis] : null;
  const part = slice?.at ?? 0;
  const at = frame ?? fields.firstFrame;
  useEffect(() => {
    if (!on || axis === null) {
      setFound(null);
      return undefined;
    }
    let current = true;
    const timer = setTimeout(() => {
      const plan = resolvePlan(fields, settings, rung, RUNGS[rung]);
      askShapes<'slice' | 'forces'>({ kind, plan, frame: at, axis, part }).then(
        (answer) => {
          if (current) setFound(answer as ShapeAnswers[K]);
        },
        (error: unknown) => {
          if (current) say('error', `The slice cannot be shown: ${error instanceof Error ? error.message : String(error)}`);
        },
      );
    }, SETTLE);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [kind, on, axis, part, at, rung, settings, fields]);
  return found;
}
