import { beforeEach, describe, expect, it, vi } from 'vitest';
import { encodePreview } from '#core/formats';
import type { PassSketchMessage } from '#protocol';
import { makePassRun, makeRun, makeShot, settingsOf } from '#testing/values';
import { asPassRun, createPassSketch, passSketchOf } from './pass-sketch';
import { chainOf } from './passes';

const settings = settingsOf({}, [
  { id: 'fine', kind: 'detail', name: 'Fine' },
  { id: 'look', kind: 'stills', name: 'Look' },
]);
const base = makeShot();
const key = chainOf({ shot: base, settings, fields: base.fields }).solve('test').key;
const whole = makeRun({ key, rung: 'test', state: 'done' });
const given = (changes: object = {}, own = settings) => ({
  shot: { ...base, runs: [whole], ...changes },
  settings: own,
  fields: base.fields,
});

describe('what a Sketch of a pass reads', () => {
  it('is the whole run of the Test that the sheet gives now', () => {
    const answer = passSketchOf(given(), 'fine', 12);
    expect(answer).toMatchObject({
      job: { rung: 'test', shown: 12, whole: { first: 1, last: base.fields.lastFrame }, inputs: { cache: { run: whole.id } } },
    });
  });

  it.each([
    ['nothing is there', { runs: [] }],
    ['it is of other settings', { runs: [{ ...whole, key: 'other' }] }],
    ['it is not whole', { runs: [{ ...whole, state: 'running' }] }],
    ['some of it is damaged', { runs: [{ ...whole, damagedFrames: 1 }] }],
    ['it is freed', { runs: [{ ...whole, freed: true }] }],
  ])('is missing when %s, and that is said', (_why, changes) => {
    expect(passSketchOf(given(changes), 'fine', 12)).toEqual({ problem: expect.stringMatching(/start its Test first/) as string });
  });

  it('is a pinned run whatever the sheet says; files of a folder are none', () => {
    const pinned = settingsOf({}, [{ id: 'fine', kind: 'detail', name: 'Fine', input: { run: whole.id } }]);
    const other = { runs: [{ ...whole, key: 'other' }] };
    expect(passSketchOf(given(other, pinned), 'fine', 12)).toMatchObject({ job: { inputs: { cache: { run: whole.id } } } });
    const folder = settingsOf({}, [{ id: 'fine', kind: 'detail', name: 'Fine', input: { folder: '/caches/cloud' } }]);
    const { plan } = makePassRun(settings, 'fine');
    const known = { folders: { '/caches/cloud': { key: 'cloud', gives: { ...plan.gives, channels: ['density', 'vel'] } } } };
    expect(passSketchOf(given(known, folder), 'fine', 12)).toEqual({ problem: expect.stringMatching(/files of a folder/) as string });
  });

  it('says that a kind has none, and why a pass cannot be', () => {
    expect(passSketchOf(given(), 'look', 12)).toEqual({ problem: expect.stringMatching(/has no Sketch/) as string });
    const mute = settingsOf({ keep: { vel: false } }, [{ id: 'fine', kind: 'detail', name: 'Fine' }]);
    expect(passSketchOf(given({}, mute), 'fine', 12)).toEqual({ problem: expect.stringMatching(/It needs velocity/) as string });
  });
});

describe('the Sketch of a pass', () => {
  beforeEach(() => {
    vi.useFakeTimers();
  });

  function open() {
    const started: object[] = [];
    let send: (message: PassSketchMessage) => void = () => undefined;
    const sketch = createPassSketch(1, (_threads, receive) => {
      send = receive;
      return { start: (job) => started.push(job), stop: () => started.push({ stop: true }), close: () => undefined };
    });
    const preview = {
      size: [2, 2, 2] as const,
      origin: [0, 0, 0] as const,
      step: 1,
      low: 0,
      high: 1,
      components: 1 as const,
      data: new Uint8Array(8).fill(7),
    };
    const frame = (n: number, shown: boolean): void => {
      const previews = shown ? [{ part: 0, channel: 'density', bytes: encodePreview(preview) }] : [];
      send({ kind: 'frame', generation: 1, report: { frame: n } as never, shown, previews });
    };
    return { sketch, started, frame, end: () => send({ kind: 'done', generation: 1 }) };
  }

  it('keeps the frames that are shown, and counts those that lead up to them', () => {
    const { sketch, frame, end } = open();
    sketch.show('fine', passSketchOf(given(), 'fine', 12));
    vi.advanceTimersByTime(0);
    expect(sketch.getState()).toMatchObject({ on: true, computing: true, done: 0 });
    frame(11, false);
    frame(12, true);
    end();
    expect(sketch.getState()).toMatchObject({ computing: false, done: 2, frames: [{ frame: 12 }] });
    expect(sketch.preview(12, 'density')?.data[0]).toBe(7);
    expect(sketch.preview(11, 'density')).toBeNull();
    const run = asPassRun(sketch.getState(), given().shot, 'fine');
    expect(run).toMatchObject({ passId: 'fine', kind: 'detail', state: 'done', inputs: [whole.id], framesDone: 1 });
  });

  it('waits with a change until the hand rests, and begins anew with the last', () => {
    const { sketch, started } = open();
    sketch.show('fine', passSketchOf(given(), 'fine', 12));
    vi.advanceTimersByTime(0);
    for (const frame of [13, 14, 15]) sketch.show('fine', passSketchOf(given(), 'fine', frame));
    vi.advanceTimersByTime(1000);
    expect(started.map((s) => (s as { shown: number }).shown)).toEqual([12, 15]);
  });

  it('says why it cannot be, computes nothing then, and lets go of everything when it ends', () => {
    const { sketch, started, frame } = open();
    sketch.show('fine', passSketchOf(given({ runs: [] }), 'fine', 12));
    vi.advanceTimersByTime(0);
    expect(sketch.getState()).toMatchObject({ on: true, computing: false, error: { tag: 'refused' } });
    expect(started).toEqual([]);
    sketch.show('fine', passSketchOf(given(), 'fine', 12));
    vi.advanceTimersByTime(1000);
    frame(12, true);
    sketch.stop();
    expect(sketch.getState()).toMatchObject({ on: false, pass: null, frames: [], error: null });
    expect(sketch.preview(12, 'density')).toBeNull();
  });
});
