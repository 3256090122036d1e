import { type UseQueryResult, useQueries } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { PassFinding } from '#core/pass';
import { definitionOf, remedyOf } from '#core/passes';
import { isSolveKind, type PassSettings, type Settings, followersOf } from '#core/shot';
import { formatBytes, formatRange } from '#core/units';
import type { PassDetailDto, PassFrameDto } from '#protocol';
import { api } from './api';
import type { PassState } from './passes';
import { fetchRun } from './queries';

/** What was found in the frames of a pass's run. */
export interface FoundInPass {
  readonly pass: string;
  readonly name: string;
  readonly findings: readonly PassFinding[];
}

/** Findings of one pass, by what is set on the sheet now. */
export function findingsOf(entry: PassSettings, frames: readonly PassFrameDto[]): readonly PassFinding[] {
  if (frames.length === 0) return [];
  const reports = [...frames].sort((a, b) => a.frame - b.frame).map((f) => f.report);
  return definitionOf(entry.kind).checks(entry.settings, reports);
}

/** Said when a Final of a pass is predicted to need more memory than the shot's budget; null: it fits. */
export function memoryFinding({ final }: Pick<PassState, 'final'>, entry: PassSettings, budget: number): PassFinding | null {
  if (!final || final.memoryBytes <= budget) return null;
  const factor = 'factor' in entry.settings ? entry.settings.factor : null;
  const { low, high } = final.ranges.memory;
  return {
    id: 'memory',
    title: `Its Final needs ${formatRange(low, high, formatBytes)} of memory`,
    text: `The shot's budget is ${formatBytes(budget)}. ${remedyOf(factor, final.memoryBytes, budget)}`,
  };
}

const dataOf = (results: readonly UseQueryResult<PassDetailDto>[]): (PassDetailDto | undefined)[] => results.map((r) => r.data);

/** What was found in the runs by which the passes stand, and of what their Finals would need; those with nothing are left out. `budget`: of memory, bytes. */
export function usePassFindings(states: readonly PassState[], settings: Settings, budget: number): readonly FoundInPass[] {
  const read = states.filter((s) => !isSolveKind(s.kind) && s.enabled && s.run !== null && s.run.framesDone > 0);
  const details = useQueries({
    queries: read.map((s) => ({
      queryKey: ['run', s.run?.id],
      queryFn: () => fetchRun<PassDetailDto>(s.run?.id ?? '', api.passRun),
    })),
    combine: dataOf,
  });
  return useMemo(
    () =>
      states.flatMap((state) => {
        const { id, name } = state;
        const entry = followersOf(settings).find((p) => p.id === id);
        if (!entry || !state.enabled) return [];
        const memory = memoryFinding(state, entry, budget);
        const frames = details[read.findIndex((s) => s.id === id)]?.frames ?? [];
        const findings = [...(memory ? [memory] : []), ...findingsOf(entry, frames)];
        return findings.length > 0 ? [{ pass: id, name, findings }] : [];
      }),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- `read` follows from the states
    [states, details, settings, budget],
  );
}
