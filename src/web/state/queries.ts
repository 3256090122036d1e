import { QueryClient, useQuery, type UseQueryResult } from '@tanstack/react-query';
import type { FrameDto, PassDetailDto, PassFrameDto, RunDetailDto, ShotDto, ShotRowDto, StatusDto } from '#protocol';
import { api } from './api';

// Events say when something changed; nothing is polled.
export const queryClient = new QueryClient({
  defaultOptions: { queries: { staleTime: Infinity, retry: 1, refetchOnWindowFocus: false } },
});

export const useStatus = (): UseQueryResult<StatusDto> => useQuery({ queryKey: ['status'], queryFn: api.status });
export const useShots = (): UseQueryResult<ShotRowDto[]> =>
  useQuery({ queryKey: ['shots'], queryFn: async () => (await afterWhatIsTold(api.shots)).map(withFigures(rowsKnown())) });
export const useShot = (slug: string): UseQueryResult<ShotDto> => useQuery({ queryKey: ['shot', slug], queryFn: () => fetchShot(slug) });

/** Raised when a run is told of: an answer that was asked for before may have been written before. */
let told = 0;
export const runIsTold = (): void => {
  told++;
};
/** So often is asked once more; runs change their state a few times, not without end. */
const MOST_ASKS = 5;

/** An answer that was asked for after the last run that was told of: an older one would take a run's end back. */
async function afterWhatIsTold<T>(ask: () => Promise<T>): Promise<T> {
  for (let n = 1; ; n++) {
    const before = told;
    const answer = await ask();
    if (told === before || n === MOST_ASKS) return answer;
  }
}

interface Counted {
  readonly id: string;
  readonly state: string;
  readonly framesDone: number;
}
/** Events tell of frames one by one, and an answer may be older than the last event: while a run computes, the higher count of frames stays. */
const newest =
  <R extends Counted>(known: readonly R[]) =>
  (run: R): R => {
    const before = known.find((r) => r.id === run.id);
    return before?.state === 'running' && run.state === 'running' && before.framesDone > run.framesDone ? before : run;
  };

const rowsKnown = (): readonly ShotRowDto[] => queryClient.getQueryData<ShotRowDto[]>(['shots']) ?? [];
const withFigures =
  (known: readonly ShotRowDto[]) =>
  (row: ShotRowDto): ShotRowDto => {
    const before = known.find((r) => r.id === row.id);
    return row.readable && before?.readable === true ? { ...row, runs: row.runs.map(newest(before.runs)) } : row;
  };

export async function fetchShot(slug: string): Promise<ShotDto> {
  const shot = await afterWhatIsTold(() => api.shot(slug));
  const before = queryClient.getQueryData<ShotDto>(['shot', slug]);
  return before ? { ...shot, runs: shot.runs.map(newest(before.runs)), passRuns: shot.passRuns.map(newest(before.passRuns)) } : shot;
}

/** Frames that were told of while their run was being asked for: the answer may have been written before them. */
const meanwhile = new Map<string, AnyFrame[]>();

type AnyFrame = FrameDto | PassFrameDto;

export const keepFrame = (runId: string, frame: AnyFrame): void => {
  meanwhile.get(runId)?.push(frame);
};

/** Frames with more of them; one that is there already is replaced. */
export function withFrames<F extends AnyFrame>(frames: readonly F[], more: readonly F[]): F[] {
  const newer = new Map(more.map((f) => [f.frame, f]));
  const known = new Set(frames.map((f) => f.frame));
  return [...frames.map((f) => newer.get(f.frame) ?? f), ...more.filter((f) => !known.has(f.frame))];
}

/** A run with its frames, those that were told of meanwhile too. */
export async function fetchRun<D extends RunDetailDto | PassDetailDto>(id: string, ask: (id: string) => Promise<D>): Promise<D> {
  const told: AnyFrame[] = [];
  meanwhile.set(id, told);
  try {
    const detail = await ask(id);
    return { ...detail, frames: withFrames<AnyFrame>(detail.frames, told) };
  } finally {
    if (meanwhile.get(id) === told) meanwhile.delete(id);
  }
}

export const useRun = (id: string | null): UseQueryResult<RunDetailDto> =>
  useQuery({ queryKey: ['run', id], queryFn: () => fetchRun(id ?? '', api.run), enabled: id !== null });
