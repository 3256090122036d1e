import { describe, expect, it, vi } from 'vitest';
import { page, userEvent } from 'vitest/browser';
import { makeFrame, makeRun, makeShot } from '#testing/values';
import { show } from '#web/testing';
import { FrameStrip } from './frame-strip';

const playback = { playing: false, toggle: vi.fn(), step: vi.fn(), first: vi.fn(), last: vi.fn() };
const run = makeRun({ framesDone: 12, state: 'running' });
const frames = Array.from({ length: 12 }, (_v, n) => makeFrame(n + 1, { report: { frame: n + 1, totalSeconds: 1 + n } }));

async function strip(props: Partial<Parameters<typeof FrameStrip>[0]> = {}): Promise<ReturnType<typeof vi.fn>> {
  const goTo = vi.fn();
  vi.clearAllMocks();
  await show(
    <div style={{ width: 916, height: 132, display: 'grid' }}>
      <FrameStrip
        fields={makeShot().fields}
        range={run.plan.options}
        frames={frames}
        frame={5}
        state="partial"
        playback={playback}
        predicted={new Map([[20, 60]])}
        notches={new Set()}
        goTo={goTo}
        {...props}
      />
    </div>,
  );
  await expect.poll(() => (page.getByRole('slider').element() as HTMLCanvasElement).width).toBe(800);
  return goTo;
}
const slider = page.getByRole('slider', { name: 'Frame strip' });
const at = (part: number): { position: { x: number; y: number } } => ({ position: { x: 800 * part, y: 60 } });
/** How many colours stand in a part of the strip. */
const coloursFrom = (from: number, to: number): number => {
  const canvas = slider.element() as HTMLCanvasElement;
  const { data } = canvas.getContext('2d')!.getImageData(Math.round(from * 800), 0, Math.round((to - from) * 800), canvas.height);
  const seen = new Set<number>();
  for (let n = 0; n < data.length; n += 4) seen.add((data[n]! << 16) | (data[n + 1]! << 8) | data[n + 2]!);
  return seen.size;
};

describe('the frame strip', () => {
  it('goes to the frame under the hand; beyond what is computed to the last one that is', async () => {
    const goTo = await strip();
    await slider.click(at(4.5 / 24));
    await slider.click(at(0.9));
    expect(goTo.mock.calls).toEqual([[5], [12]]);
  });

  it('goes nowhere while nothing is stored', async () => {
    const goTo = await strip({ frames: [] });
    await slider.click(at(0.5));
    expect(goTo).not.toHaveBeenCalled();
  });

  it('says what a frame took, or is predicted to take', async () => {
    await strip();
    await slider.hover(at(2.5 / 24));
    await expect.element(page.getByText('3: 3 s')).toBeVisible();
    await slider.hover(at(19.5 / 24));
    await expect.element(page.getByText(/^20: .*1 min$/)).toBeVisible();
  });

  it('steps by the arrow keys, to the ends by Home and End, and plays by its button', async () => {
    await strip();
    slider.element().focus();
    await userEvent.keyboard('{ArrowLeft}{ArrowRight}{Home}{End}');
    expect([playback.step.mock.calls, playback.first.mock.calls.length, playback.last.mock.calls.length]).toEqual([[[-1], [1]], 1, 1]);
    await page.getByRole('button', { name: 'Play (Space)' }).click();
    expect(playback.toggle).toHaveBeenCalledOnce();
  });

  it('what is computed is drawn, the rest is not', async () => {
    await strip({ predicted: new Map(), frame: null });
    expect(coloursFrom(0.02, 0.4)).toBeGreaterThan(coloursFrom(0.6, 0.98));
  });

  it('the wheel zooms to what is under it', async () => {
    const goTo = await strip();
    const element = slider.element();
    const box = element.getBoundingClientRect();
    for (let n = 0; n < 8; n++) {
      element.dispatchEvent(new WheelEvent('wheel', { bubbles: true, deltaY: -100, clientX: box.left, clientY: box.top + 20 }));
    }
    // Eight frames are left, from the first on: half way is the fourth or the fifth.
    await slider.click(at(0.47));
    expect(goTo.mock.lastCall).toEqual([4]);
  });
});
