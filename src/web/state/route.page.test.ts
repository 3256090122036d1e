import { type MockInstance, afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { currentRoute, navigate } from './route';

const query = (name: string): string | null => new URLSearchParams(window.location.search).get(name);
let written: MockInstance<History['replaceState']>;

beforeEach(() => {
  vi.useFakeTimers();
  navigate({ view: 'bench', shot: 'kiln-lid', run: 'run-1', frame: 1 });
  vi.advanceTimersByTime(1000);
  written = vi.spyOn(window.history, 'replaceState');
});
afterEach(() => {
  vi.useRealTimers();
  vi.restoreAllMocks();
});

const play = (from: number, to: number, every = 42): void => {
  for (let frame = from; frame <= to; frame++) {
    navigate({ frame }, { replace: true });
    vi.advanceTimersByTime(every);
  }
};

describe('the address', () => {
  it('follows a playback when that rests: however long it plays, it is written twice', () => {
    play(2, 500);
    expect(currentRoute().frame).toBe(500);
    expect(written.mock.calls.length).toBe(1);
    vi.advanceTimersByTime(400);
    expect(written.mock.calls.length).toBe(2);
    expect([query('frame'), query('run')]).toEqual(['500', 'run-1']);
  });

  it('has a single change at once', () => {
    navigate({ group: 'forces' }, { replace: true });
    expect(query('group')).toBe('forces');
  });

  it('of the entry that a step leaves names the frame that was shown last', () => {
    play(2, 40);
    navigate({ run: 'run-2', frame: null });
    expect([query('run'), query('frame')]).toEqual(['run-2', null]);
    vi.advanceTimersByTime(1000);
    expect([query('run'), query('frame')]).toEqual(['run-2', null]);
    expect(String(written.mock.calls.at(-1)![2])).toMatch(/run=run-1&frame=40$/);
  });

  it('is whole when the page is left in the middle of a playback', () => {
    play(2, 40);
    window.dispatchEvent(new Event('pagehide'));
    expect(query('frame')).toBe('40');
  });

  it('wins when the browser goes back to it; an address that was to be written is dropped', () => {
    play(2, 40);
    window.history.pushState(null, '', '/bench/kiln-lid?run=run-9&frame=3');
    window.dispatchEvent(new PopStateEvent('popstate'));
    expect(currentRoute()).toMatchObject({ run: 'run-9', frame: 3 });
    vi.advanceTimersByTime(1000);
    expect(query('frame')).toBe('3');
  });
});
