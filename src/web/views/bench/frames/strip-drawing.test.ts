import { describe, expect, it } from 'vitest';
import { labelledFrames, layoutStrip } from './strip-drawing';

describe('the frame strip', () => {
  it('gives each frame a cell and finds it again', () => {
    const l = layoutStrip(-23, 96, 760);
    expect(l.perCell).toBe(1);
    for (const f of [-23, 1, 50, 96]) expect(l.frameAt(l.x(f) + l.cell / 2)).toBe(f);
    expect(l.frameAt(-100)).toBe(-23);
    expect(l.frameAt(5000)).toBe(96);
    expect(l.x(96) + l.cell).toBeLessThanOrEqual(760);
  });
  it('bins frames when there are more than there is room for', () => {
    const l = layoutStrip(1, 2000, 760);
    expect(l.perCell).toBe(11);
    expect(l.cell).toBeGreaterThanOrEqual(4);
    expect(l.x(1)).toBe(l.x(11));
    expect(l.x(12)).toBeGreaterThan(l.x(11));
  });

  it('labels the first frame and round ones, as many as there is room for', () => {
    expect(labelledFrames(1, 96, 1000)).toEqual([1, 5, 10, 15, 20, 25, 30, 35, 40, 45, 50, 55, 60, 65, 70, 75, 80, 85, 90, 95]);
    expect(labelledFrames(1001, 1240, 400)).toEqual([1001, 1050, 1100, 1150, 1200]);
    expect(labelledFrames(1, 3, 900)).toEqual([1, 2, 3]);
    expect(labelledFrames(7, 7, 900)).toEqual([7]);
  });
});
