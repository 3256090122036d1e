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
      if (event.run.state !== 'running') {
        void queryClient.invalidateQueries({ queryKey: ['shots'] });
        // A run that ended is something to predict from.
        void queryClient.invalidateQueries({ queryKey: ['evidence'] });
      }
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

/**
 * Keeps an event stream open while the page is looked at; the browser reconnects by itself. A hidden page lets go of it: a browser makes six
 * connections to a server in all, and six pages in the background would keep the seventh waiting for ever. What happened meanwhile is looked at anew
 * with the first event. Returns the function that ends it.
 */
export function connectEvents(): () => void {
  let source: EventSource | null = null;
  const close = (): void => {
    source?.close();
    source = null;
  };
  const follow = (): void => {
    if (document.visibilityState === 'hidden') {
      close();
      return;
    }
    if (source) return;
    source = new EventSource('/api/events');
    source.onopen = () => {
      useConnection.setState({ live: true });
    };
    source.onerror = () => {
      useConnection.setState({ live: false });
    };
    source.onmessage = (message: MessageEvent<string>) => {
      receive(JSON.parse(message.data) as ServerEvent);
    };
  };
  follow();
  document.addEventListener('visibilitychange', follow);
  window.addEventListener('pagehide', close);
  window.addEventListener('pageshow', follow);
  return () => {
    document.removeEventListener('visibilitychange', follow);
    window.removeEventListener('pagehide', close);
    window.removeEventListener('pageshow', follow);
    close();
  };
}
