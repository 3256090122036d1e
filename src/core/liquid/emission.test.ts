import { describe, expect, it } from 'vitest';
import type { Shape } from '#core/geometry';
import { body, boxOf, liquidOptions, runLiquid, withTeam } from '#testing';
import { type LiquidFrame, solveLiquid } from './solver';
import type { LiquidOptions, LiquidSource } from './options';

const G = 9.80665;
const ROOM = { min: [-1, -1, -1], max: [1, 1, 1] } as const;

const cylinder = (rotation: readonly [number, number, number], radius = 0.15, height = 0.3): Shape => ({
  kind: 'cylinder',
  centre: [0, 0.5, 0],
  radius,
  height,
  rotation,
});

const emitting = (shape: Shape, of: Partial<LiquidSource> = {}): LiquidSource => body(shape, { act: 'emits', velocity: [0, -2, 0], ...of });

const emitted = (source: LiquidSource, changes: Parameters<typeof liquidOptions>[0] = {}): LiquidOptions =>
  liquidOptions({ lastFrame: 7, bounds: { limit: ROOM }, sources: [source], ...changes });

interface Told {
  readonly given: number;
  readonly particle: number;
  readonly frame: LiquidFrame['report'];
}

const last = (options: LiquidOptions, each: (frame: LiquidFrame) => void = () => undefined): Promise<Told> =>
  withTeam(1, (team) => {
    const frames = runLiquid(team, options, { each });
    const { report } = frames[frames.length - 1]!;
    return { given: report.volume.end, particle: (options.voxelSize / options.particles.along) ** 3, frame: report };
  });

/** What came of it, to one per cent or one particle. */
function expectGiven({ given, particle }: Told, wanted: number, what: string): void {
  expect(Math.abs(given - wanted), `${what}: ${String(given)} of ${String(wanted)}`).toBeLessThanOrEqual(
    Math.max(0.01 * wanted, particle * 1.001),
  );
}

describe('a source that emits', () => {
  const SHAPES: readonly [string, Shape, number][] = [
    ['a ball', { kind: 'ball', centre: [0, 0.5, 0], radius: 0.17 }, Math.PI * 0.17 ** 2],
    ['an upright cylinder', cylinder([0, 0, 0]), Math.PI * 0.15 ** 2],
    ['a cylinder on its side', cylinder([0, 0, 90]), 0.3 * 0.3],
    ['a tilted cylinder', cylinder([0, 0, 30]), Math.cos(Math.PI / 6) * Math.PI * 0.15 ** 2 + 0.5 * 0.3 * 0.3],
    ['a thin sheet', boxOf([-0.2, 0.5, -0.2], [0.2, 0.503, 0.2]), 0.16],
    ['a thin blade', boxOf([-0.004, 0.4, -0.2], [0.004, 0.6, 0.2]), 0.008 * 0.4],
  ];

  it.each(SHAPES)('gives what its velocity carries through its opening: %s', async (what, shape, opening) => {
    for (const change of [{}, { stepping: { minimum: 8 } }, { voxelSize: 0.08 }, { forces: { gravity: [0, 0, 0] as const } }])
      expectGiven(await last(emitted(emitting(shape), change)), opening * 2 * 0.25, `${what} ${JSON.stringify(change)}`);
  });

  it.each(SHAPES)('gives the rate that it is asked for: %s', async (what, shape) => {
    for (const rate of [0.03, 0.0001])
      expectGiven(await last(emitted(emitting(shape, { volumeRate: rate }))), rate * 0.25, `${what} at ${String(rate)}`);
  });

  it('while it moves, turns and changes its rate', async () => {
    const moves = {
      'shape.centre.x': { kind: 'expression', text: '0.8 * time - 0.2' },
      'shape.rotation.z': { kind: 'expression', text: '180 * time' },
      volumeRate: { kind: 'expression', text: '0.04 * time' },
    } as unknown as LiquidSource['moves'];
    // The integral of .04 t over a quarter of a second.
    expectGiven(await last(emitted(emitting(cylinder([0, 0, 0]), { volumeRate: 0.01, moves }))), 0.00125, 'moving');
  });

  it('at a frame rate of twenty, begun and ended at a frame, and without a direction', async () => {
    const source = emitting(cylinder([0, 0, 0]), { volumeRate: 0.02, from: 3, to: 6 });
    expectGiven(await last(emitted(source, { framesPerSecond: 20 })), 0.02 * (4 / 20), 'from 3 to 6');
    const open = emitting({ kind: 'ball', centre: [0, 0.5, 0], radius: 0.1 }, { velocity: [0, 0, 0], volumeRate: 0.02 });
    expectGiven(await last(emitted(open)), 0.005, 'outward');
  });

  it('has its own velocity and cross-section in its mouth', async () => {
    const radius = 0.15;
    const mouth = emitting(cylinder([0, 0, 0], radius));
    let [fastest, slowest, widest, inside] = [0, Infinity, 0, 0];
    await last(emitted(mouth), ({ report, cloud }) => {
      if (report.frame < 6) return;
      const { count, places, motions } = cloud();
      for (let n = 0; n < count; n++) {
        const [x, y, z] = [places[4 * n]!, places[4 * n + 1]!, places[4 * n + 2]!];
        const speed = Math.hypot(motions[4 * n]!, motions[4 * n + 1]! + 2, motions[4 * n + 2]!);
        if (y > 0.35 && y < 0.65) {
          inside++;
          fastest = Math.max(fastest, speed);
          slowest = Math.min(slowest, Math.hypot(x, z));
          widest = Math.max(widest, Math.hypot(x, z));
        }
      }
    });
    expect(inside).toBeGreaterThan(2000);
    expect(fastest).toBeLessThan(1e-5);
    expect(slowest).toBeLessThan(0.03);
    expect(widest).toBeLessThan(radius + 0.013);
    expect(widest).toBeGreaterThan(radius - 0.013);
  });

  it('with rate and velocity given takes the opening that both need', async () => {
    const source = emitting({ kind: 'ball', centre: [0, 0.5, 0], radius: 0.3 }, { volumeRate: 0.04, opening: 'fits' });
    let widest = 0;
    const told = await last(emitted(source, { forces: { gravity: [0, 0, 0] } }), ({ cloud }) => {
      const { count, places } = cloud();
      for (let n = 0; n < count; n++) widest = Math.max(widest, Math.hypot(places[4 * n]!, places[4 * n + 2]!));
    });
    expectGiven(told, 0.01, 'fits');
    expect(Math.abs(widest - Math.sqrt(0.02 / Math.PI))).toBeLessThan(0.02);
  });

  it('under water pushes the water away: the level rises by what it gives', async () => {
    const source = emitting({ kind: 'ball', centre: [0.4, 0.2, 0.4], radius: 0.1 }, { velocity: [0.3, 0, 0], volumeRate: 0.02 });
    const pool = body(boxOf([0, 0, 0], [0.8, 0.4, 0.8]));
    const told = await last(
      emitted(source, { lastFrame: 25, bounds: { limit: { min: [0, 0, 0], max: [0.8, 0.8, 0.8] } }, sources: [pool, source] }),
    );
    expectGiven(told, 0.256 + 0.02, 'under water');
    expect(Math.abs(told.frame.surfaceVolume / 0.276 - 1)).toBeLessThan(0.02);
  });

  it('in a wall gives nothing, says why, and gives what is missing once there is room', async () => {
    const source = emitting(cylinder([0, 0, 0]), { volumeRate: 0.02 });
    const lid = {
      shape: boxOf([-0.4, 0, -0.4], [0.4, 1, 0.4]),
      body: 'filled',
      thickness: 0.1,
      offset: 0,
      voxelSize: null,
      turnsAbout: null,
      moves: { 'shape.centre.y': { kind: 'expression', text: '0.5 + min(1.4, max(0, 24 * time - 6))' } },
    } as unknown as LiquidOptions['solids'][number];
    const told: LiquidFrame['report'][] = [];
    await last(emitted(source, { lastFrame: 21, solids: [lid] }), ({ report }) => told.push(report));
    const held = told[5]!;
    expect(held.volume.end).toBe(0);
    expect(held.sources![0]).toMatchObject({ source: 0, held: 'wall' });
    expect(held.sources![0]!.asked).toBeCloseTo((0.02 * 5) / 24, 6);
    const end = told[20]!.sources![0]!;
    expect(end.held).toBeNull();
    expect(Math.abs(end.given - (0.02 * 20) / 24)).toBeLessThan(0.0002);
  });

  it('in a closed box that is full gives nothing, and says so', async () => {
    const source = emitting({ kind: 'ball', centre: [0.2, 0.2, 0.2], radius: 0.1 }, { velocity: [0, 0, 0], volumeRate: 0.02 });
    const walls = { left: 'closed', right: 'closed', floor: 'closed', ceiling: 'closed', back: 'closed', front: 'closed' } as const;
    const told = await last(
      emitted(source, {
        bounds: { limit: { min: [0, 0, 0], max: [0.4, 0.4, 0.4] }, walls },
        sources: [body(boxOf([0, 0, 0], [0.4, 0.4, 0.4])), source],
      }),
    );
    expect(told.frame.sources![0]).toMatchObject({ held: 'full' });
    expect(told.given).toBeLessThan(0.064 * 1.02);
  });

  it('that keeps its shape full refills what left it, and no more', async () => {
    const held = body(boxOf([-0.2, 0, -0.2], [0.2, 0.2, 0.2]), { act: 'keeps' });
    const floor = { min: [-0.2, 0, -0.2], max: [0.2, 1, 0.2] } as const;
    expect((await last(emitted(held, { bounds: { limit: floor } }))).given).toBeCloseTo(0.032, 3);
    const falling = await last(emitted({ ...held, shape: boxOf([-0.2, 0.6, -0.2], [0.2, 0.8, 0.2]) }, { bounds: { limit: ROOM } }));
    expect(falling.given).toBeGreaterThan(0.05);
    expect(falling.frame.sources).toEqual([]);
  });

  it('goes on from a state to the bit', async () => {
    const options = emitted(emitting(cylinder([0, 0, 30]), { volumeRate: 0.02 }), { lastFrame: 9 });
    await withTeam(1, async (team) => {
      const whole = runLiquid(team, options, { each: () => undefined });
      expect(whole).toHaveLength(9);
      let state: Uint8Array<ArrayBuffer> | null = null;
      let wanted: Float32Array | null = null;
      const environment = { clock: () => 0, cancelled: () => false };
      await withTeam(1, (other) => {
        for (const f of solveLiquid(options, { ...environment, team: other })) {
          if (f.report.frame === 5) state = f.state();
          if (f.report.frame === 9) wanted = f.cloud().places.slice();
        }
      });
      await withTeam(1, (other) => {
        for (const f of solveLiquid(options, { ...environment, team: other, from: state }))
          if (f.report.frame === 9) expect(f.cloud().places.every((v, n) => v === wanted![n])).toBe(true);
      });
    });
  });

  it('falls from its mouth as everything falls', async () => {
    let lowest = Infinity;
    await last(emitted(emitting(cylinder([0, 0, 0], 0.1, 0.1)), { lastFrame: 7, stepping: { minimum: 4 } }), ({ cloud }) => {
      const { count, places } = cloud();
      for (let n = 0; n < count; n++) lowest = Math.min(lowest, places[4 * n + 1]!);
    });
    const [out, t] = [0.1 / 2, 6 / 24];
    const fallen = 0.55 - 0.1 - 2 * (t - out) - 0.5 * G * (t - out) ** 2;
    expect(lowest).toBeGreaterThan(fallen - 0.08);
    expect(lowest).toBeLessThan(fallen + 0.04);
  });
});
