import { describe, expect, it } from 'vitest';
import { solveLiquid } from './solver';
import type { LiquidVolume } from './volumes';
import { body, boxOf, liquidOptions, solid, withTeam } from '#testing';

const plain = liquidOptions({
  lastFrame: 6,
  bounds: { limit: { min: [0, 0, 0], max: [1.2, 1, 0.6] } },
  matter: { viscosity: 1e-4 },
  sources: [body(boxOf([0, 0, 0], [0.5, 0.5, 0.6])), body(boxOf([0.9, 0.6, 0.2], [1, 0.7, 0.4]), { act: 'emits', velocity: [-1, 0, 0] })],
  solids: [
    solid({
      shape: { kind: 'ball', centre: [0.6, 0.2, 0.3], radius: 0.15 },
      moves: { 'shape.centre.x': { kind: 'expression', text: '0.6 + 0.1 * sin(20 * time)' } },
    }),
  ],
});

const environment = (
  team: Parameters<typeof solveLiquid>[1]['team'],
  from: Uint8Array | null = null,
  volumes: readonly LiquidVolume[] = [],
): Parameters<typeof solveLiquid>[1] => ({
  team,
  clock: () => 0,
  cancelled: () => false,
  from,
  volumes,
});

describe('the state of a liquid run', () => {
  it.each<readonly [LiquidVolume[], number | null]>([
    [[], null],
    [['distance', 'vel'], 3],
  ])(
    'goes on from a state to the bit as if it had not been interrupted, and the same on two threads; volumes: %j, fine layer: %j',
    async (volumes, band) => {
      const options = { ...plain, particles: { ...plain.particles, band } };
      const whole = await withTeam(1, (team) =>
        [...solveLiquid(options, environment(team, null, volumes))].map((f) => ({
          report: f.report,
          cloud: f.report.frame === 6 ? f.cloud() : null,
        })),
      );
      const state = await withTeam(1, (team) => {
        for (const f of solveLiquid(options, environment(team, null, volumes))) if (f.report.frame === 3) return f.state();
        return null;
      });
      const rest = await withTeam(2, (team) =>
        [...solveLiquid(options, environment(team, state, volumes))].map((f) => ({
          report: f.report,
          cloud: f.report.frame === 6 ? f.cloud() : null,
        })),
      );
      expect(rest.map((r) => r.report.frame)).toEqual([4, 5, 6]);
      for (const [n, { report, cloud }] of rest.entries()) {
        const { memoryBytes: _a, ...same } = report;
        const { memoryBytes: _b, ...before } = whole[3 + n]!.report;
        expect(same).toEqual(before);
        expect(cloud).toEqual(whole[3 + n]!.cloud);
      }
      expect(whole[5]!.cloud!.count).toBeGreaterThan(3000);
    },
  );

  it('refuses what is no state, one of other settings, and one that is cut short', async () => {
    const state = await withTeam(1, (team) => {
      for (const f of solveLiquid({ ...plain, solids: [] }, environment(team))) return f.state();
      return new Uint8Array(0);
    });
    const start = async (bytes: Uint8Array, of = plain): Promise<unknown> =>
      withTeam(1, (team) => solveLiquid(of, environment(team, bytes)).next());
    await expect(start(new Uint8Array(4))).rejects.toMatchObject({ tag: 'file-invalid', fields: { reason: 'it is none' } });
    await expect(start(state.subarray(0, state.length - 5))).rejects.toMatchObject({ fields: { reason: 'it ends early' } });
    const flip = { ...plain, matter: { ...plain.matter, transfer: 'flip' } } as const;
    await expect(start(state, flip)).rejects.toMatchObject({ fields: { reason: 'it is of other settings' } });
  });
});
