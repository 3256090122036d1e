import { describe, expect, it } from 'vitest';
import { page } from 'vitest/browser';
import { makePrediction } from '#testing/values';
import { serve, show } from '#web/testing';
import { LateFrame } from './late-frame';
import { paceUntil, partUntil, secondsUntil } from './until-frame';

const FRAMES = [1, 2, 3, 4, 5, 6, 7, 8];
const late = async (changes: Partial<Parameters<typeof LateFrame>[0]> = {}): Promise<void> => {
  await show(
    <LateFrame
      run={{ id: 'r1', state: 'running' }}
      frames={FRAMES}
      stored={new Set([1, 2])}
      wanted={6}
      order="any"
      seconds={16}
      {...changes}
    />,
  );
};
const box = page.getByTestId('late-frame');

describe('a frame that is wanted before it is there', () => {
  it('is computed next where frames need no others', async () => {
    const asked = serve({ 'POST /runs/r1/first': () => ({}) });
    await late();
    await expect.element(box).toHaveTextContent('Frame 6 is not computed yet.');
    await page.getByRole('button', { name: 'Compute it next' }).click();
    await expect.poll(() => asked.map((a) => [a.method, a.path, a.body])).toEqual([['POST', '/runs/r1/first', { frame: 6 }]]);
  });

  it('comes after those before it where each needs the one before: when, and what is quicker', async () => {
    await late({ order: 'sequential', byTest: 9 });
    await expect.element(box).toHaveTextContent(/^Frame 6 needs the 3 before it: about 16 s\. A Test gets there in about 9(\.0)? s\.$/);
  });

  it.each([
    ['is there', { wanted: 2 }],
    ['is none of the run', { wanted: 40 }],
    ['is not asked for', { wanted: null }],
    ['will not come', { run: { id: 'r1', state: 'done' } }],
  ] as const)('says nothing of one that %s', async (_what, changes) => {
    await late(changes);
    await expect.element(box).not.toBeInTheDocument();
  });

  it('is reached after the predicted seconds of all up to it', () => {
    const frames = FRAMES.map((frame) => ({ frame, seconds: frame }));
    const predicted = { ...makePrediction(), frames } as unknown as Parameters<typeof secondsUntil>[0];
    expect(secondsUntil(predicted, 3)).toBe(6);
    expect(secondsUntil(null, 3)).toBeNull();
    // Frames 3 to 8 are missing: of their predicted 33 s, 12 are those of 3, 4 and 5; the run is slower than that.
    const all = new Map(frames.map((f) => [f.frame, f.seconds]));
    expect(partUntil(66, all, new Set([1, 2]), 5)).toBeCloseTo(24, 9);
    expect(partUntil(null, all, new Set(), 5)).toBeNull();
    const done = [{ report: { totalSeconds: 2 } }, { report: { totalSeconds: 4 } }];
    expect(paceUntil(done, FRAMES, new Set([1, 2]), 5)).toBe(9);
    expect(paceUntil([], FRAMES, new Set(), 5)).toBeNull();
  });
});
