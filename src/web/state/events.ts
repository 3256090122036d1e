import { create } from 'zustand';
import type {
  FrameDto,
  PassDetailDto,
  PassFrameDto,
  PassRunDto,
  RunDetailDto,
  RunDto,
  RunSummaryDto,
  ServerEvent,
  ShotDto,
  ShotRowDto,
} from '#protocol';
import { useImportProgress } from './importing';
import { keepFrame, queryClient, runIsTold, withFrames } from './queries';

type Detail = RunDetailDto | PassDetailDto;

interface Progress {
  readonly frame: number;
  readonly part: number;
}

/** Where running runs are within a frame; frames themselves are in the run's query. */
export const useProgress = create<{ readonly runs: Readonly<Record<string, Progress>> }>(() => ({ runs: {} }));
export const useConnection = create<{ readonly live: boolean }>(() => ({ live: false }));

/** A run in the list of a shot, put in place of the one of its id or added. */
const withRun = <R extends { readonly id: string }>(runs: readonly R[], run: R): R[] =>
  runs.some((r) => r.id === run.id) ? runs.map((r) => (r.id === run.id ? run : r)) : [...runs, run];

/** The rows of all shots, with the runs of one changed. */
const changeRows = (shotId: string, change: (runs: readonly RunSummaryDto[]) => readonly RunSummaryDto[]): void => {
  queryClient.setQueryData<ShotRowDto[]>(['shots'], (rows) =>
    rows?.map((row) => (row.readable && row.id === shotId ? { ...row, runs: change(row.runs) } : row)),
  );
};

function mergeRun(run: RunDto | PassRunDto): void {
  runIsTold();
  queryClient.setQueriesData<ShotDto>({ queryKey: ['shot'] }, (shot) => {
    if (shot?.id !== run.shotId) return shot;
    return 'inputs' in run ? { ...shot, passRuns: withRun(shot.passRuns, run) } : { ...shot, runs: withRun(shot.runs, run) };
  });
  changeRows(run.shotId, (runs) => withRun<RunSummaryDto>(runs, run));
  queryClient.setQueryData<Detail>(['run', run.id], (detail) => detail && ({ ...detail, run } as Detail));
}

function addFrame({ frame, runId, shotId, again }: Extract<ServerEvent, { kind: 'frame' }>): void {
  keepFrame(runId, frame);
  queryClient.setQueryData<Detail>(
    ['run', runId],
    (detail) => detail && ({ ...detail, frames: withFrames<FrameDto | PassFrameDto>(detail.frames, [frame]) } as Detail),
  );
  // Counted already.
  if (again) return;
  const grow = <R extends RunSummaryDto>(run: R): R =>
    run.id === runId
      ? {
          ...run,
          framesDone: run.framesDone + 1,
          seconds: run.seconds + frame.report.totalSeconds,
          bytes: run.bytes + frame.bytes,
          ...('memoryBytes' in run ? { memoryBytes: Math.max(Number(run.memoryBytes), frame.report.memoryBytes) } : {}),
        }
      : run;
  queryClient.setQueriesData<ShotDto>({ queryKey: ['shot'] }, (s) =>
    s?.id === shotId ? { ...s, runs: s.runs.map(grow), passRuns: s.passRuns.map(grow) } : s,
  );
  changeRows(shotId, (runs) => runs.map(grow));
}

function receive(event: ServerEvent): void {
  switch (event.kind) {
    case 'hello':
      // (Re)connected: what happened meanwhile is not known.
      void queryClient.invalidateQueries();
      return;
    case 'pass':
    case 'run':
      mergeRun(event.run);
      if (event.run.state !== 'running' && event.run.state !== 'queued') {
        useProgress.setState(({ runs: { [event.run.id]: _ended, ...runs } }) => ({ runs }));
        void queryClient.invalidateQueries({ queryKey: ['shots'] });
        // What was told of its frames, held once more against what the server has.
        void queryClient.invalidateQueries({ queryKey: ['run', event.run.id] });
        // A run that ended is something to predict from.
        void queryClient.invalidateQueries({ queryKey: ['evidence'] });
      }
      return;
    case 'frame':
      addFrame(event);
      return;
    case 'progress':
      useProgress.setState(({ runs }) => ({ runs: { ...runs, [event.runId]: { frame: event.frame, part: event.part } } }));
      return;
    case 'shot':
      void queryClient.invalidateQueries({ queryKey: ['shots'] });
      void queryClient.invalidateQueries({ queryKey: ['shot'] });
      return;
    case 'import':
      useImportProgress.setState({ [event.id]: { stage: event.stage, part: event.part } });
      return;
  }
}

/** Between two tries to connect where the server answers, but not with a stream, milliseconds: doubled each time. */
const SOONEST = 1000;
const LATEST = 15_000;

/**
 * Keeps an event stream open while the page is looked at; the browser reconnects by itself, and where it gives up the page does. A hidden page lets go of it: a browser makes six
 * connections to a server in all, and six pages in the background would keep the seventh waiting for ever. What happened meanwhile is looked at anew
 * with the first event. Returns the function that ends it.
 */
export function connectEvents(): () => void {
  let source: EventSource | null = null;
  let again: ReturnType<typeof setTimeout> | null = null;
  let wait = SOONEST;
  const close = (): void => {
    if (again !== null) clearTimeout(again);
    again = null;
    source?.close();
    source = null;
  };
  const follow = (): void => {
    if (document.visibilityState === 'hidden') {
      close();
      return;
    }
    if (source) return;
    close();
    const opened = new EventSource('/api/events');
    source = opened;
    source.onopen = () => {
      wait = SOONEST;
      useConnection.setState({ live: true });
    };
    source.onerror = () => {
      useConnection.setState({ live: false });
      // The browser takes up a lost connection by itself; after an answer that is no stream it gives up.
      if (opened.readyState !== EventSource.CLOSED || source !== opened) return;
      close();
      again = setTimeout(follow, wait);
      wait = Math.min(LATEST, wait * 2);
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
