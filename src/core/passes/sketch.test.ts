import { describe, expect, it } from 'vitest';
import { settingsOf } from '#testing/values';
import { makeShot } from '#testing/values';
import { Chain, SKETCH_FRAMES, passSketch } from '.';
import type { HeldBody } from './held';

const settings = settingsOf({}, [
  { id: 'fine', kind: 'detail', name: 'Fine' },
  { id: 'held', kind: 'held', name: 'Held' },
  { id: 'thin', kind: 'resample', name: 'Thin', settings: { everyNth: 3 } },
  { id: 'sparse', kind: 'held', name: 'Sparse', input: { pass: 'thin' } },
  { id: 'look', kind: 'stills', name: 'Look' },
]);
const fields = { ...makeShot().fields, firstFrame: 1, lastFrame: 60, preRoll: 0 };
const planOf = (id: string) => new Chain(fields, settings, { run: () => null, folder: () => null }).entry(id, 'test').plan!;

describe('the Sketch of a pass', () => {
  it('shows eight frames from the wanted one on, and begins sixteen earlier', () => {
    const { plan, shown } = passSketch(planOf('fine'), 30)!;
    expect([plan.frames, shown, plan.rung]).toEqual([{ first: 14, last: 37, every: 1 }, 30, 'sketch']);
    expect(plan.frames.last - shown + 1).toBe(SKETCH_FRAMES);
    // Nothing else is another.
    expect({ ...plan, rung: 'test', frames: planOf('fine').frames, gives: planOf('fine').gives }).toEqual(planOf('fine'));
  });

  it('lies in the range, at its beginning and its end', () => {
    expect(passSketch(planOf('fine'), 5)).toMatchObject({ shown: 5, plan: { frames: { first: 1, last: 12 } } });
    expect(passSketch(planOf('fine'), -3)).toMatchObject({ shown: 1, plan: { frames: { first: 1, last: 8 } } });
    expect(passSketch(planOf('fine'), 60)).toMatchObject({ shown: 53, plan: { frames: { first: 37, last: 60 } } });
  });

  it('goes by the frames that the pass has, and leads up to none where each is made by itself', () => {
    expect(passSketch(planOf('thin'), 30)).toMatchObject({ shown: 28, plan: { frames: { first: 28, last: 49, every: 3 } } });
  });

  it('of a held solve is one that begins there, but for one that begins where the run does', () => {
    const first = (frame: number): number => (passSketch(planOf('held'), frame)!.plan.body as HeldBody).options.firstFrame;
    expect([first(30), first(9)]).toEqual([14, 1]);
    // Over every third frame it begins at one that the base has: 13 is, 14 is not.
    expect(passSketch(planOf('sparse'), 30)).toMatchObject({
      shown: 30,
      plan: { frames: { first: 13 }, body: { options: { firstFrame: 13 } } },
    });
  });

  it('there is none of a kind that has none', () => {
    expect(passSketch(planOf('look'), 3)).toBeNull();
  });
});
