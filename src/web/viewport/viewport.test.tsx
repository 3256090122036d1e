import { describe, expect, it, vi } from 'vitest';
import { page, userEvent } from 'vitest/browser';
import { show } from '#web/testing';
import { type View, Viewport } from './viewport';

const scene = { solids: [], sources: [], regions: [], directions: [], beside: [], limit: { min: [-1, 0, -1], max: [1, 2, 1] } } as const;
const points = (size: number) =>
  ({
    min: [-size, 0, -size],
    max: [size, 2 * size, size],
    fastest: 1,
    of: 1,
    count: 1,
    places: new Uint16Array(3),
    speeds: new Uint8Array(1),
    ages: new Uint8Array(1),
    directions: null,
  }) as const;

async function viewport(props: Partial<Parameters<typeof Viewport>[0]> = {}, width = 600) {
  const onCamera = vi.fn<(view: View) => void>();
  let api: Parameters<NonNullable<Parameters<typeof Viewport>[0]['onReady']>>[0] = null;
  const of = (more: Partial<Parameters<typeof Viewport>[0]> = {}) => (
    <div style={{ position: 'relative', width, height: 400 }}>
      <Viewport
        scene={scene}
        frame={null}
        sliced={null}
        slice={null}
        bounds={[]}
        moving={false}
        onCamera={onCamera}
        onReady={(ready) => (api ??= ready)}
        {...props}
        {...more}
      />
    </div>
  );
  await show(of());
  const view = (): View => api!.view();
  return {
    onCamera,
    view,
    distance: () => Math.hypot(...view().position.map((p, a) => p - view().target[a]!)),
    setView: (v: View) => api!.setView(v),
  };
}
const canvas = page.getByRole('application', { name: /^Viewport: drag or arrow keys to turn/ });

describe('the viewport', () => {
  it('is reached by Tab and turned, shifted and come nearer to by keys; each move is told', async () => {
    const { onCamera, view, distance } = await viewport();
    await userEvent.tab();
    await expect.element(canvas).toHaveFocus();
    const [before, far] = [view(), distance()];
    await userEvent.keyboard('{ArrowRight}');
    expect(view().target).toEqual(before.target);
    expect(view().position[0]).toBeGreaterThan(before.position[0]);
    expect(distance()).toBeCloseTo(far, 6);
    const level = view().position[1];
    await userEvent.keyboard('{ArrowUp}');
    expect(view().position[1]).toBeGreaterThan(level);
    await userEvent.keyboard('+');
    expect(distance()).toBeCloseTo(0.85 * far, 6);
    await userEvent.keyboard('-');
    expect(distance()).toBeCloseTo(far, 6);
    await userEvent.keyboard('{Shift>}{ArrowUp}{/Shift}');
    expect(view().target[1]).toBeGreaterThan(before.target[1]);
    expect(onCamera).toHaveBeenCalled();
    expect(onCamera.mock.lastCall![0]).toEqual(view());
    await userEvent.keyboard('{Home}');
    view().position.forEach((p, a) => expect(p).toBeCloseTo(before.position[a]!, 6));
    // It never turns over.
    await userEvent.keyboard('{ArrowUp}'.repeat(40));
    expect(Number.isFinite(view().position[0])).toBe(true);
    expect(view().position[1] - view().target[1]).toBeGreaterThan(0.9 * distance());
  });

  it('frames what there is to see when that comes first; a view that was chosen stays', async () => {
    const all = await viewport();
    const whole = all.distance();
    const small = await viewport({ points: points(0.1) });
    expect(small.distance()).toBeLessThan(whole / 3);
    const chosen: View = { position: [0, 1, 9], target: [0, 1, 0], fieldOfView: 32 };
    const kept = await viewport({ points: points(0.1), initialView: chosen });
    expect(kept.view().target).toEqual([0, 1, 0]);
    expect(kept.distance()).toBeCloseTo(9, 6);
  });
});
