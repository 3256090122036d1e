import { describe, expect, it } from 'vitest';
import type { Move } from '#core/moves';
import { allClosed, gasOptions, runGas, solid, still, sumOf, voxelsOf, withTeam } from '#testing';

const straight = (from: number, to: number, last: number): Move => ({
  kind: 'keys',
  keys: [
    { frame: 1, value: from, then: 'straight', arrive: null, leave: null },
    { frame: last, value: to, then: 'straight', arrive: null, leave: null },
  ],
});
const none = { sources: [], matter: { lift: 0 } } as const;

describe('a moving solid', () => {
  it('a solid that grows pushes the air at the speed of its side', async () => {
    // A box over the whole section; its middle and its size grow so that its right side goes 2.4 m/s and its left one stands.
    const frames = await withTeam(1, (team) =>
      runGas(
        team,
        gasOptions({
          ...none,
          lastFrame: 5,
          stepping: { tolerance: 1e-5 },
          bounds: { mode: 'dense', limit: { min: [0, 0, 0], max: [3.2, 1.6, 1.6] }, walls: { ...allClosed, right: 'open' } },
          solids: [
            solid({
              shape: { kind: 'box', centre: [0.2, 0.8, 0.8], size: [0.6, 4, 4], rotation: [0, 0, 0] },
              moves: {
                'shape.size.x': { kind: 'expression', text: '0.6 + 2.4 * time' },
                'shape.centre.x': { kind: 'expression', text: '0.2 + 1.2 * time' },
              },
            }),
          ],
        }),
      ),
    );
    const at = voxelsOf(frames[frames.length - 1]!, 'vel');
    for (const x of [15, 24, 30]) {
      let mean = 0;
      for (let n = 0; n < 256; n++) mean += at(x, n & 15, n >> 4) / 256;
      expect(mean).toBeGreaterThan(2.3);
      expect(mean).toBeLessThan(2.45);
    }
  });

  it('pushes the air of a channel ahead of it at its own speed', async () => {
    const frames = await withTeam(1, (team) =>
      runGas(
        team,
        gasOptions({
          ...none,
          lastFrame: 5,
          stepping: { tolerance: 1e-5 },
          bounds: {
            mode: 'dense',
            limit: { min: [0, 0, 0], max: [3.2, 1.6, 1.6] },
            walls: { ...allClosed, right: 'open' },
          },
          solids: [
            solid({
              // A piston over the whole section, 2.4 m/s, through faces that it meets at any place within a voxel.
              shape: { kind: 'box', centre: [0.2, 0.8, 0.8], size: [0.6, 4, 4], rotation: [0, 0, 0] },
              turnsAbout: null,
              moves: { 'shape.centre.x': straight(0.2, 0.2 + 2.4 * (4 / 24), 5) },
            }),
          ],
        }),
      ),
    );
    const last = frames[frames.length - 1]!;
    const at = voxelsOf(last, 'vel');
    for (const x of [12, 18, 25, 30]) {
      for (const y of [1, 8, 14]) expect(at(x, y, 7, 0) / 2.4, `voxel ${String(x)}, ${String(y)}`).toBeCloseTo(1, 4);
    }
    expect(Math.abs(at(20, 8, 7, 1))).toBeLessThan(0.02);
    expect(last.report.converged).toBe(true);
  });

  it('leaves the ledger of a closed box in balance, whatever it stirs', async () => {
    const frames = await withTeam(1, (team) =>
      runGas(
        team,
        gasOptions({
          lastFrame: 8,
          matter: { lift: 0, sinking: 0 },
          sources: [],
          bounds: { mode: 'dense', limit: { min: [0, 0, 0], max: [1.6, 1.6, 1.6] }, walls: allClosed },
          solids: [
            solid({
              shape: { kind: 'box', centre: [0.8, 0.8, 0.8], size: [1, 0.3, 0.9], rotation: [0, 0, 0] },
              turnsAbout: null,
              moves: { 'shape.rotation.z': { kind: 'expression', text: '90 * time' } },
            }),
          ],
        }),
        {
          initial: ({ team: t, fields, size }) => {
            const density = t.floats(fields.density, size);
            for (let n = 0; n < size; n++) density[n] = 1;
          },
        },
      ),
    );
    for (const { report } of frames) {
      const { mass } = report;
      expect(Math.abs(mass.remainder)).toBeLessThan(1e-5 * mass.start);
      // A uniform density stays so, and the box's content changes only as its free cells do.
      expect(report.maxima.density).toBeLessThan(1.05);
      expect(report.converged).toBe(true);
      expect(report.divergence).toBeLessThan(5e-3);
    }
    const [first, last] = [frames[0]!.report.mass, frames[frames.length - 1]!.report.mass];
    expect(Math.abs(last.end / first.start - 1)).toBeLessThan(0.1);
    expect(frames[frames.length - 1]!.report.fastest).toBeGreaterThan(0.3);
  });

  it('stands in the first frame where the first frame has it, not a step ahead', async () => {
    const frame = await withTeam(1, (team) => {
      const base = gasOptions();
      return runGas(
        team,
        gasOptions({
          lastFrame: 1,
          firstFrameSolved: false,
          bounds: { mode: 'fixed' },
          sources: [{ ...base.sources[0]!, shape: { kind: 'box', centre: [1.6, 1.6, 1.6], size: [3, 0.8, 0.8], rotation: [0, 0, 0] } }],
          solids: [
            solid({
              shape: { kind: 'box', centre: [0.8, 1.6, 1.6], size: [0.4, 2, 2], rotation: [0, 0, 0] },
              turnsAbout: null,
              // A metre a frame.
              moves: { 'shape.centre.x': { kind: 'expression', text: 'value + 24 * time' } },
            }),
          ],
        }),
      ).pop()!;
    });
    const density = voxelsOf(frame, 'density');
    expect(density(8, 16, 16)).toBe(0);
    expect(density(18, 16, 16)).toBeCloseTo(1, 5);
  });

  it('that is told to stand still is a still one', async () => {
    const box = { kind: 'box', centre: [1.6, 1.6, 1.6], size: [0.8, 0.35, 0.8], rotation: [0, 0, 15] } as const;
    const [a, b] = await withTeam(1, (team) =>
      [still(box), { ...still(box), moves: { 'shape.centre.x': { kind: 'expression', text: 'value' } as Move } }].map((solid) => {
        team.reset();
        return runGas(team, gasOptions({ lastFrame: 4, solids: [solid] })).pop()!;
      }),
    );
    // Its bounds are awake in any case, so the active sets differ; the matter does not.
    expect(sumOf(b!, 'density') / sumOf(a!, 'density')).toBeCloseTo(1, 3);
  });

  it('turns about its hinge, and says how fast its edge is', async () => {
    const frames = await withTeam(1, (team) =>
      runGas(
        team,
        gasOptions({
          ...none,
          lastFrame: 3,
          bounds: { mode: 'fixed' },
          solids: [
            solid({
              shape: { kind: 'box', centre: [1.6, 1, 1.6], size: [1, 1, 0.2], rotation: [0, 0, 0] },
              turnsAbout: [1.1, 1, 1.6],
              moves: { 'shape.rotation.y': { kind: 'expression', text: '-180 * time' } },
            }),
          ],
        }),
      ),
    );
    // Its edge is a metre from the hinge: pi m/s.
    expect(frames[2]!.report.substepSpeed).toBeGreaterThan(2.8);
    expect(frames[2]!.report.fastest).toBeGreaterThan(1);
  });
});

describe('a moving source', () => {
  it('leaves no gaps however fast it is, and takes its gas along', async () => {
    const run = async (inherits: number) =>
      withTeam(1, (team) => {
        const base = gasOptions();
        return runGas(
          team,
          gasOptions({
            lastFrame: 2,
            matter: { lift: 0 },
            bounds: { mode: 'fixed' },
            stepping: { maximum: 1 },
            sources: [
              {
                ...base.sources[0]!,
                heat: null,
                inherits,
                shape: { kind: 'ball', centre: [0.5, 1.6, 1.6], radius: 0.2 },
                moves: { 'shape.centre.x': straight(0.5, 2.7, 2) },
              },
            ],
          }),
        ).pop()!;
      });
    // 2.2 m in one substep: ten times its radius.
    const left = await run(0);
    const density = voxelsOf(left, 'density');
    for (let x = 6; x <= 26; x++) expect(density(x, 16, 16), `voxel ${String(x)}`).toBeGreaterThan(0.5);
    expect(left.report.maxima.speed).toBeLessThan(0.5);
    const taken = await run(0.1);
    expect(taken.report.maxima.speed).toBeGreaterThan(1);
  });
});
