import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useCommands } from '#web/commands';

interface PlaybackInput {
  readonly run: string | null;
  readonly frame: number | null;
  /** Whether a frame can be shown at once. */
  readonly ready: (frame: number) => boolean;
  readonly stored: ReadonlySet<number>;
  readonly framesPerSecond: number;
  readonly goTo: (frame: number | null) => void;
}

export interface Playback {
  readonly playing: boolean;
  toggle: () => void;
  step: (by: number) => void;
  first: () => void;
  last: () => void;
}

/** Plays at the shot's rate; waits for a frame that has not arrived rather than leaving it out. Starts again at the end. */
export function usePlayback({ run, frame, ready, stored, framesPerSecond, goTo }: PlaybackInput): Playback {
  const [playing, setPlaying] = useState(false);
  const order = useMemo(() => [...stored].sort((a, b) => a - b), [stored]);
  const now = useRef({ frame, order, ready });
  now.current = { frame, order, ready };

  const step = useCallback(
    (by: number): void => {
      const { frame: at, order: list } = now.current;
      if (list.length === 0) return;
      const index = at === null ? 0 : list.indexOf(at);
      const next = list[(Math.max(0, index) + by + list.length) % list.length];
      if (next !== undefined) goTo(next);
    },
    [goTo],
  );
  const toggle = useCallback((): void => {
    setPlaying((p) => !p);
  }, []);
  const first = useCallback((): void => {
    goTo(now.current.order[0] ?? null);
  }, [goTo]);
  const last = useCallback((): void => {
    goTo(now.current.order[now.current.order.length - 1] ?? null);
  }, [goTo]);

  useEffect(() => {
    if (!playing || run === null) return undefined;
    const timer = setInterval(() => {
      const { frame: at, order: list } = now.current;
      const index = at === null ? -1 : list.indexOf(at);
      const next = list[(index + 1) % list.length];
      if (next === undefined) return;
      // The next frame is on its way: fetched ahead by the one that is shown.
      if (now.current.ready(next) || index + 1 >= list.length) goTo(next);
    }, 1000 / framesPerSecond);
    return () => {
      clearInterval(timer);
    };
  }, [playing, run, framesPerSecond, goTo]);

  useCommands([
    { id: 'play', title: 'Play or stop', keys: ' ', run: toggle },
    { id: 'frame-back', title: 'One frame back', keys: ',', run: () => step(-1) },
    { id: 'frame-on', title: 'One frame on', keys: '.', run: () => step(1) },
  ]);
  return { playing, toggle, step, first, last };
}
