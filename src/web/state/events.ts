import { create } from 'zustand';
import type { RunDetailDto, RunDto, ServerEvent, ShotDto, ShotRowDto } from '#protocol';
import { queryClient } from './queries';

interface Progress {
  readonly frame: number;
  readonly part: number;
}

/** Where running runs are within a frame; frames themselves are in the run's query. */
export const useProgress = create<{ readonly runs: Readonly<Record<string, Progress>> }>(() => ({ runs: {} }));
export const useConnection = create<{ readonly live: boolean }>(() => ({ live: false }));

const withRun = <T extends { readonly id: string; readonly runs: readonly RunDto[] }>(shot: T, run: RunDto): T => {
  if (shot.id !== run.shotId) return shot;
  const known = shot.runs.some((r) => r.id === run.id);
  return { ...shot, runs: known ? shot.runs.map((r) => (r.id === run.id ? run : r)) : [...shot.runs, run] };
};

function mergeRun(run: RunDto): void {
  queryClient.setQueriesData<ShotDto>({ queryKey: ['shot'] }, (shot) => shot && withRun(shot, run));
  queryClient.setQueryData<ShotRowDto[]>(['shots'], (rows) => rows?.map((row) => withRun(row, run)));
  queryClient.setQueryData<RunDetailDto>(['run', run.id], (detail) => detail && { ...detail, run });
}

function receive(event: ServerEvent): void {
  switch (event.kind) {
    case 'hello':
      // (Re)connected: what happened meanwhile is not known.
      void queryClient.invalidateQueries();
      return;
    case 'run':
      mergeRun(event.run);
      if (event.run.state !== 'running') void queryClient.invalidateQueries({ queryKey: ['shots'] });
      return;
    case 'frame': {
      const { frame, runId } = event;
      queryClient.setQueryData<RunDetailDto>(['run', runId], (detail) => {
        if (!detail || detail.frames.some((f) => f.frame === frame.frame)) return detail;
        return { ...detail, frames: [...detail.frames, frame] };
      });
      const grow = (run: RunDto): RunDto =>
        run.id === runId
          ? {
              ...run,
              framesDone: run.framesDone + 1,
              seconds: run.seconds + frame.report.totalSeconds,
              bytes: run.bytes + frame.bytes,
              memoryBytes: Math.max(run.memoryBytes, frame.report.memoryBytes),
            }
          : run;
      queryClient.setQueriesData<ShotDto>({ queryKey: ['shot'] }, (s) => s && { ...s, runs: s.runs.map(grow) });
      queryClient.setQueryData<ShotRowDto[]>(['shots'], (rows) => rows?.map((r) => ({ ...r, runs: r.runs.map(grow) })));
      return;
    }
    case 'progress':
      useProgress.setState(({ runs }) => ({ runs: { ...runs, [event.runId]: { frame: event.frame, part: event.part } } }));
      return;
    case 'shot':
      void queryClient.invalidateQueries({ queryKey: ['shots'] });
      void queryClient.invalidateQueries({ queryKey: ['shot'] });
      return;
  }
}

/** Opens the event stream; the browser reconnects by itself. Returns the function that closes it. */
export function connectEvents(): () => void {
  const source = new EventSource('/api/events');
  source.onopen = () => {
    useConnection.setState({ live: true });
  };
  source.onerror = () => {
    useConnection.setState({ live: false });
  };
  source.onmessage = (message: MessageEvent<string>) => {
    receive(JSON.parse(message.data) as ServerEvent);
  };
  return () => {
    source.close();
  };
}
