import { describe, expect, it } from 'vitest';
import { limitAround, limitOfView } from './limit-from';
import { solveSchema } from './solve-settings';
import { shotFieldsSchema } from './shot';

const shot = shotFieldsSchema.parse({ name: 'Door', lastFrame: 25 });
const settings = solveSchema.parse({
  bounds: { walls: { floor: 'closed' } },
  solids: [
    { shape: { kind: 'box', centre: [0, 1, 0], size: [2, 2, 2] } },
    { shape: { kind: 'box', centre: [0, 1, 0], size: [2, 2, 2] }, moves: { 'shape.centre.x': { kind: 'expression', text: 'time * 4' } } },
  ],
});
const camera = { name: 'Front', position: [0, 1, 10], target: [0, 1, 0], fieldOfView: 30, aspect: 2 } as const;

describe('a limit box', () => {
  it('is taken from a solid with room around, wherever it goes', () => {
    expect(limitAround(shot, settings, 'solids', 0)).toEqual({ min: [-1.3, -0.3, -1.3], max: [1.3, 2.3, 1.3] });
    const moving = limitAround(shot, settings, 'solids', 1)!;
    expect(moving.min[0]).toBeLessThan(-1);
    expect(moving.max[0]).toBeGreaterThan(5);
    expect(limitAround(shot, settings, 'solids', 9)).toBeNull();
  });

  it('is taken from what a camera sees at its target, and not from under a closed floor', () => {
    const present = { min: [-3, 0, -3], max: [3, 6, 3] } as const;
    const box = limitOfView(settings, camera, present);
    const half = Math.tan((15 * Math.PI) / 180) * 10;
    for (const [x, y] of [
      [2 * half, half],
      [-2 * half, half],
    ]) {
      expect(box.max[0]).toBeGreaterThanOrEqual(x! * 0.999);
      expect(box.min[0]).toBeLessThanOrEqual(-Math.abs(x!) * 0.999);
      expect(box.max[1]).toBeGreaterThanOrEqual(1 + y! * 0.999);
    }
    expect(box.min[1]).toBe(0);
    expect(box.min[2]).toBeCloseTo(-6, 1);
    const open = solveSchema.parse({});
    expect(limitOfView(open, camera, present).min[1]).toBeLessThan(-1);
    const down = limitOfView(open, { ...camera, position: [0, 10, 0], target: [0, 0, 0] }, present);
    for (const v of [...down.min, ...down.max]) expect(Number.isFinite(v)).toBe(true);
  });
});
