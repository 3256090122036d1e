import { describe, expect, it } from 'vitest';
import { makeRow, makeRun } from '#testing/values';
import { leastNeeded } from './least-needed';

describe('what is needed least', () => {
  it('is what is damaged, then what did not end, then what a newer run replaced, then the newest, then what is approved', () => {
    const runs = [
      makeRun({ id: 'approved', number: 1, approved: true }),
      makeRun({ id: 'old', number: 2 }),
      makeRun({ id: 'newest', number: 3 }),
      makeRun({ id: 'cancelled', number: 4, state: 'cancelled', framesDone: 4 }),
      makeRun({ id: 'damaged', number: 5, damagedFrames: 1 }),
      makeRun({ id: 'final', number: 6, rung: 'final' }),
    ];
    const list = leastNeeded([makeRow({ runs })]);
    // What is damaged replaces nothing.
    expect(list.map((f) => [f.run.id, f.why])).toEqual([
      ['damaged', 'damaged'],
      ['cancelled', 'cancelled'],
      ['old', 'run 3 is newer'],
      ['newest', 'the newest'],
      ['final', 'the newest'],
      ['approved', 'approved'],
    ]);
  });

  it('of what is needed as much, that which frees most for a second of computing it again comes first', () => {
    const runs = [
      makeRun({ id: 'dear', number: 1, state: 'cancelled', bytes: 1e9, seconds: 1000 }),
      makeRun({ id: 'cheap', number: 2, state: 'cancelled', bytes: 1e8, seconds: 10 }),
    ];
    expect(leastNeeded([makeRow({ runs })]).map((f) => f.run.id)).toEqual(['cheap', 'dear']);
  });

  it('leaves out what computes, waits, is freed, holds nothing, or cannot be read', () => {
    const runs = [
      makeRun({ id: 'a', state: 'running' }),
      makeRun({ id: 'b', state: 'queued' }),
      makeRun({ id: 'c', state: 'paused' }),
      makeRun({ id: 'd', freed: true }),
      makeRun({ id: 'e', state: 'failed', framesDone: 0 }),
    ];
    expect(leastNeeded([makeRow({ runs }), { readable: false, id: 'x', slug: 'x', lastActivity: 0, reason: '' }])).toEqual([]);
  });
});
