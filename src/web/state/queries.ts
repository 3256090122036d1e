import { QueryClient, useQuery, type UseQueryResult } from '@tanstack/react-query';
import type { RunDetailDto, ShotDto, ShotRowDto, StatusDto } from '#protocol';
import { api } from './api';

// Events say when something changed; nothing is polled.
export const queryClient = new QueryClient({
  defaultOptions: { queries: { staleTime: Infinity, retry: 1, refetchOnWindowFocus: false } },
});

export const useStatus = (): UseQueryResult<StatusDto> => useQuery({ queryKey: ['status'], queryFn: api.status });
export const useShots = (): UseQueryResult<ShotRowDto[]> => useQuery({ queryKey: ['shots'], queryFn: api.shots });
export const useShot = (slug: string): UseQueryResult<ShotDto> => useQuery({ queryKey: ['shot', slug], queryFn: () => api.shot(slug) });
export const useRun = (id: string | null): UseQueryResult<RunDetailDto> =>
  useQuery({ queryKey: ['run', id], queryFn: () => api.run(id ?? ''), enabled: id !== null });
