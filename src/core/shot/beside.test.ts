import { describe, expect, it } from 'vitest';
import { countOfBounds, optionsOf, parseShotFile, passOf, planOfBounds, resolvePlan, settingsOfBounds, solveOf, type ShotFile } from '.';

const ball = (name: string, x: number, more: object = {}): object => ({
  name,
  shape: { kind: 'ball', centre: [x, 1, 0], radius: 0.5 },
  ...more,
});
const shotOf = (bounds: object, sources: object[] = [ball('Near', 0), ball('Far', 40)], solids: object[] = []): ShotFile =>
  parseShotFile(JSON.stringify({ ruddle: 1, name: 'Two', variants: [{ name: 'One', settings: { bounds, sources, solids } }] }), 'two.json');
const far = { name: 'Far chimney', limit: { min: [38, 0, -2], max: [42, 6, 2] }, voxelSize: 0.05 };
const planOf = (shot: ShotFile) => resolvePlan(shot, solveOf(shot.variants[0]!.settings), 'final');

describe('bounds beside', () => {
  it('none: a plan is what it was', () => {
    const plan = planOf(shotOf({}));
    expect(plan.beside).toEqual([]);
    expect(optionsOf(plan)).toEqual([plan.options]);
    expect(plan.options.sources.map((s) => s.name)).toEqual(['Near', 'Far']);
  });

  it('each has its own limit box, voxel size and the things that come into it; the derived first box leaves them out', () => {
    const shot = shotOf({ beside: [far] }, undefined, [
      { name: 'Floor', shape: { kind: 'box', centre: [0, -0.5, 0], size: [6, 1, 6] } },
      { name: 'Cap', shape: { kind: 'box', centre: [40, 5, 0], size: [1, 0.2, 1] } },
    ]);
    const settings = solveOf(shot.variants[0]!.settings);
    expect(countOfBounds(settings)).toBe(2);
    const plan = planOf(shot);
    const [first, second] = optionsOf(plan);
    expect(first!.sources.map((s) => s.name)).toEqual(['Near']);
    expect(second!.sources.map((s) => s.name)).toEqual(['Far']);
    expect([first!.voxelSize, second!.voxelSize]).toEqual([0.1, 0.05]);
    expect(second!.bounds.limit).toEqual(far.limit);
    expect(first!.bounds.limit.max[0]).toBeLessThan(12);
    expect(second!.solids.map((s) => s.shape.centre[0])).toEqual([40]);
    expect(planOfBounds(plan, 1)).toMatchObject({ options: second, beside: [] });
    expect([passOf(plan, 0), passOf(plan, 1)]).toEqual(['solve', 'solve-2']);
    // Places in the lists stay: remedies name them.
    expect(settingsOfBounds(shot, settings, 1).sources.map((s) => s.hidden)).toEqual([true, false]);
  });

  it('what moves into a box, and what comes into several, is in each of them; what is in none stays with the first', () => {
    const key = (frame: number, value: number): object => ({ frame, value, then: 'straight', arrive: null, leave: null });
    const travels = ball('Travels', 0, { moves: { 'shape.centre.x': { kind: 'keys', keys: [key(1, 0), key(48, 40)] } } });
    const limit = { min: [-2, 0, -2], max: [2, 4, 2] };
    const shot = shotOf({ limit, beside: [far] }, [travels, ball('Lost', 20)]);
    const [first, second] = optionsOf(planOf(shot));
    expect(first!.sources.map((s) => s.name)).toEqual(['Travels', 'Lost']);
    expect(second!.sources.map((s) => s.name)).toEqual(['Travels']);
  });

  it('a box of no size is refused with its place', () => {
    expect(() => shotOf({ beside: [{ ...far, limit: { min: [1, 0, 0], max: [1, 1, 1] } }] })).toThrow(/beside\[0\]\.limit.*lowest corner/s);
  });
});
