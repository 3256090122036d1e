import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { RunDetailDto, ServerEvent, ShotDto, ShotRowDto } from '#protocol';
import { makeFrame, makeRun, makeShot } from '#testing/values';
import { serve } from '#web/testing';
import { connectEvents, useConnection, useProgress } from './events';
import { useImportProgress } from './importing';
import { fetchRun, fetchShot, queryClient } from './queries';

/** Stands in for the browser's event stream. */
class Stream {
  static readonly CLOSED = 2;
  static all: Stream[] = [];
  readyState = 1;
  onopen: () => void = () => undefined;
  onerror: () => void = () => undefined;
  onmessage: (message: { data: string }) => void = () => undefined;
  closed = false;
  constructor(readonly url: string) {
    Stream.all.push(this);
  }
  close(): void {
    this.closed = true;
  }
}
const tell = (event: ServerEvent): void => {
  Stream.all.at(-1)!.onmessage({ data: JSON.stringify(event) });
};

const run = makeRun({ state: 'running', framesDone: 1, seconds: 1, bytes: 2e6 });
const shot = makeShot({ runs: [run] });
const row: ShotRowDto = { readable: true, id: shot.id, slug: shot.slug, lastActivity: 0, fields: shot.fields, variants: 1, runs: [run] };
const shotNow = (): ShotDto => queryClient.getQueryData(['shot', shot.slug])!;
const rowNow = () => queryClient.getQueryData<Extract<ShotRowDto, { readable: true }>[]>(['shots'])![0]!;
const detailNow = (): RunDetailDto => queryClient.getQueryData(['run', run.id])!;
let end = (): void => undefined;

beforeEach(() => {
  Stream.all = [];
  vi.stubGlobal('EventSource', Stream);
  queryClient.clear();
  queryClient.setQueryData(['shot', shot.slug], shot);
  queryClient.setQueryData(['shots'], [row]);
  queryClient.setQueryData(['run', run.id], { run, frames: [makeFrame(1)] } satisfies RunDetailDto);
  end = connectEvents();
});
afterEach(() => {
  end();
  vi.unstubAllGlobals();
});

describe('what the server tells', () => {
  it('a frame is in the run, in the shot and in the list, with what it took', () => {
    tell({ kind: 'frame', runId: run.id, shotId: shot.id, again: false, frame: makeFrame(2, { report: { frame: 2, totalSeconds: 4 } }) });
    expect(detailNow().frames.map((f) => f.frame)).toEqual([1, 2]);
    for (const r of [shotNow().runs[0]!, rowNow().runs[0]!]) expect(r).toMatchObject({ framesDone: 2, seconds: 5, bytes: 4e6 });
  });

  it('a frame that is known already is not there twice', () => {
    tell({ kind: 'frame', runId: run.id, shotId: shot.id, again: false, frame: makeFrame(1) });
    expect(detailNow().frames).toHaveLength(1);
  });

  it('a damaged frame that is computed again takes the place of the damaged one, and is not counted twice', () => {
    queryClient.setQueryData(['run', run.id], { run, frames: [makeFrame(1, { stored: false, damage: 'damaged' }), makeFrame(2)] });
    tell({ kind: 'frame', runId: run.id, shotId: shot.id, again: true, frame: makeFrame(1) });
    expect(detailNow().frames.map((f) => [f.frame, f.damage])).toEqual([
      [1, null],
      [2, null],
    ]);
    expect(shotNow().runs[0]!.framesDone).toBe(1);
  });

  it('a frame that comes while its run is being asked for is not lost', async () => {
    const detail = await fetchRun(run.id, () => {
      tell({ kind: 'frame', runId: run.id, shotId: shot.id, again: false, frame: makeFrame(2) });
      // Written before that frame.
      return Promise.resolve({ run, frames: [makeFrame(1)] });
    });
    expect(detail.frames.map((f) => f.frame)).toEqual([1, 2]);
  });

  it('a new run joins its shot, and no other', () => {
    const other = makeShot({ id: 'shot-2', slug: 'other' });
    queryClient.setQueryData(['shot', 'other'], other);
    tell({ kind: 'run', run: makeRun({ id: 'run-2', number: 2, state: 'queued' }) });
    expect(shotNow().runs.map((r) => r.id)).toEqual(['run-1', 'run-2']);
    expect(queryClient.getQueryData<ShotDto>(['shot', 'other'])!.runs).toEqual([]);
  });

  it('a run that ends is asked for once more, and its progress is over', () => {
    tell({ kind: 'progress', runId: run.id, frame: 2, part: 0.5 });
    expect(useProgress.getState().runs[run.id]).toEqual({ frame: 2, part: 0.5 });
    tell({ kind: 'run', run: { ...run, state: 'done', framesDone: 24 } });
    expect(useProgress.getState().runs[run.id]).toBeUndefined();
    expect(shotNow().runs[0]!.state).toBe('done');
    expect(queryClient.getQueryState(['run', run.id])!.isInvalidated).toBe(true);
  });

  it('after a break everything is asked for anew', () => {
    const stream = Stream.all[0]!;
    stream.onopen();
    expect(useConnection.getState().live).toBe(true);
    stream.onerror();
    expect(useConnection.getState().live).toBe(false);
    tell({ kind: 'hello' });
    for (const key of [['shots'], ['shot', shot.slug], ['run', run.id]]) expect(queryClient.getQueryState(key)!.isInvalidated).toBe(true);
  });

  it('a run that ends while its shot and the list are asked for stays ended: they are asked for once more', async () => {
    let asks = 0;
    const old = { ...shot, runs: [run] };
    const over = { ...run, state: 'done' as const, framesDone: 24 };
    const answer =
      <T>(before: T, after: T) =>
      (): T => {
        if (++asks > 1) return after;
        tell({ kind: 'run', run: over });
        return before;
      };
    serve({ [`GET /shots/${shot.slug}`]: answer(old, { ...shot, runs: [over] }) });
    queryClient.setQueryData(['shot', shot.slug], await fetchShot(shot.slug));
    expect(shotNow().runs[0]!.state).toBe('done');
    expect(asks).toBe(2);
  });

  it('frames that come while their shot is asked for are not taken back', async () => {
    serve({
      [`GET /shots/${shot.slug}`]: () => {
        for (const n of [2, 3]) tell({ kind: 'frame', runId: run.id, shotId: shot.id, again: false, frame: makeFrame(n) });
        return { ...shot, runs: [{ ...run, framesDone: 2 }] };
      },
    });
    queryClient.setQueryData(['shot', shot.slug], await fetchShot(shot.slug));
    expect(shotNow().runs[0]!.framesDone).toBe(3);
  });

  it('a stream that the browser has given up, after an answer that is none, is opened anew; again and again, ever more slowly', () => {
    vi.useFakeTimers();
    try {
      const refuse = (): void => {
        const stream = Stream.all.at(-1)!;
        stream.readyState = Stream.CLOSED;
        stream.onerror();
      };
      refuse();
      vi.advanceTimersByTime(999);
      expect(Stream.all).toHaveLength(1);
      vi.advanceTimersByTime(1);
      expect(Stream.all).toHaveLength(2);
      refuse();
      vi.advanceTimersByTime(1999);
      expect(Stream.all).toHaveLength(2);
      vi.advanceTimersByTime(1);
      expect(Stream.all).toHaveLength(3);
      for (let n = 0; n < 10; n++) {
        refuse();
        vi.advanceTimersByTime(15_000);
      }
      expect(Stream.all).toHaveLength(13);
      Stream.all.at(-1)!.onopen();
      // One that only lost its connection is the browser's own affair.
      Stream.all.at(-1)!.onerror();
      vi.advanceTimersByTime(60_000);
      expect(Stream.all).toHaveLength(13);
      // Nor is one opened after the page has ended it.
      refuse();
      end();
      vi.advanceTimersByTime(60_000);
      expect(Stream.all).toHaveLength(13);
    } finally {
      vi.useRealTimers();
    }
  });

  it('how far an import is, by its id', () => {
    tell({ kind: 'import', id: 'i-1', stage: 'reading', part: 0.25 });
    expect(useImportProgress.getState()['i-1']).toEqual({ stage: 'reading', part: 0.25 });
  });

  it('a hidden page lets go of the stream, and takes it up again when it is looked at', () => {
    serve({});
    const visible = vi.spyOn(document, 'visibilityState', 'get').mockReturnValue('hidden');
    document.dispatchEvent(new Event('visibilitychange'));
    expect(Stream.all.map((s) => s.closed)).toEqual([true]);
    visible.mockReturnValue('visible');
    document.dispatchEvent(new Event('visibilitychange'));
    expect(Stream.all.map((s) => s.closed)).toEqual([true, false]);
    visible.mockRestore();
  });
});
