import { type UseQueryResult, useQueries } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { PassFinding } from '#core/pass';
import { definitionOf } from '#core/passes';
import { type Settings, followersOf } from '#core/shot';
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
export function findingsOf(settings: Settings, id: string, frames: readonly PassFrameDto[]): readonly PassFinding[] {
  const entry = followersOf(settings).find((p) => p.id === id);
  if (!entry || frames.length === 0) return [];
  const reports = [...frames].sort((a, b) => a.frame - b.frame).map((f) => f.report);
  return definitionOf(entry.kind).checks(entry.settings, reports);
}

const dataOf = (results: readonly UseQueryResult<PassDetailDto>[]): (PassDetailDto | undefined)[] => results.map((r) => r.data);

/** What was found in the runs by which the passes stand; those with nothing are left out. */
export function usePassFindings(states: readonly PassState[], settings: Settings): readonly FoundInPass[] {
  const read = states.filter((s) => s.kind !== 'gas' && s.enabled && s.run !== null && s.run.framesDone > 0);
  const details = useQueries({
    queries: read.map((s) => ({
      queryKey: ['run', s.run?.id],
      queryFn: () => fetchRun<PassDetailDto>(s.run?.id ?? '', api.passRun),
    })),
    combine: dataOf,
  });
  return useMemo(
    () =>
      read.flatMap(({ id, name }, n) => {
        const findings = findingsOf(settings, id, details[n]?.frames ?? []);
        return findings.length > 0 ? [{ pass: id, name, findings }] : [];
      }),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- `read` follows from the states
    [states, details, settings],
  );
}
