import { QueryClient, useQuery, type UseQueryResult } from '@tanstack/react-query';
import type { FrameDto, PassDetailDto, PassFrameDto, RunDetailDto, ShotDto, ShotRowDto, StatusDto } from '#protocol';
import { api } from './api';

// Events say when something changed; nothing is polled.
export const queryClient = new QueryClient({
  defaultOptions: { queries: { staleTime: Infinity, retry: 1, refetchOnWindowFocus: false } },
});

export const useStatus = (): UseQueryResult<StatusDto> => useQuery({ queryKey: ['status'], queryFn: api.status });
export const useShots = (): UseQueryResult<ShotRowDto[]> => useQuery({ queryKey: ['shots'], queryFn: api.shots });
export const useShot = (slug: string): UseQueryResult<ShotDto> => useQuery({ queryKey: ['shot', slug], queryFn: () => api.shot(slug) });

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
