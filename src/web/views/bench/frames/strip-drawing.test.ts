import { describe, expect, it } from 'vitest';
import { layoutStrip } from './strip-drawing';

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
});
