import { createHash } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { isRuddleError } from '#core/errors';
import { allClosed, gasOptions, solid, withTeam } from '#testing';
import type { Team } from '#kernels';
import { type GasChannel, type GasFrame, type GasOptions, solveGas } from '.';

type Changes = Parameters<typeof gasOptions>[0];

const puff = gasOptions().sources[0]!;
const CHANNELS: readonly GasChannel[] = ['density', 'temperature', 'vel'];

/** What a frame is, to the bit; times are the machine's. */
function fingerprint({ report, grids }: GasFrame): string {
  const hash = createHash('sha256');
  for (const g of grids) {
    hash.update(g.name);
    for (const a of [g.origins, g.masks, g.values]) hash.update(new Uint8Array(a.buffer, a.byteOffset, a.byteLength));
  }
  const { seconds: _s, totalSeconds: _t, calibrationSeconds: _c, ...rest } = report;
  return hash.update(JSON.stringify(rest)).digest('hex');
}

interface Ran {
  readonly frames: string[];
  readonly states: Uint8Array[];
}

function run(team: Team, options: GasOptions, channels: readonly GasChannel[], from: Uint8Array | null = null): Ran {
  team.reset();
  const frames: string[] = [];
  const states: Uint8Array[] = [];
  for (const frame of solveGas(options, { team, clock: () => 0, channels: { names: channels }, cancelled: () => false, from })) {
    frames.push(fingerprint(frame));
    states.push(frame.state());
  }
  return { frames, states };
}

/** Begins anew after each frame: what follows must be what followed. */
async function resumes(changes: Changes, channels = CHANNELS, threads = 1): Promise<Ran> {
  const options = gasOptions(changes);
  return await withTeam(threads, (team) => {
    const whole = run(team, options, channels);
    whole.states.forEach((state, n) => {
      const rest = run(team, options, channels, state);
      expect(rest.frames, `after frame ${String(n + 1)}`).toEqual(whole.frames.slice(n + 1));
      // And the states are the same, not only what is seen of them.
      rest.states.forEach((s, m) => {
        expect(Buffer.from(s).equals(Buffer.from(whole.states[n + 1 + m]!)), `state ${String(n + 2 + m)}`).toBe(true);
      });
    });
    return whole;
  });
}

describe('a run that begins with the state after a frame', () => {
  it('computes the same frames: adaptive bounds that grow, wind that turns, turbulence, confinement', async () => {
    const { frames } = await resumes({
      lastFrame: 6,
      preRoll: 1,
      forces: {
        wind: [-0.5, 0, 0],
        windTime: 0.5,
        turbulence: { strength: 2, size: 0.8, change: 0.5, octaves: 3, seed: 4 },
        confinement: 0.3,
        moves: { 'wind.x': { kind: 'expression', text: '-0.5 + 4 * time' } },
      },
      matter: { heatSpread: 0.01, smoothing: 0.005, decayTime: 3, coolingTime: 1, sharpening: 0.5, keepsMass: true },
    });
    expect(frames).toHaveLength(7);
  });

  it('with substeps that change from frame to frame, for matter and wind that change', async () => {
    await resumes({
      lastFrame: 6,
      bounds: { mode: 'fixed' },
      stepping: { cfl: 0.6 },
      forces: { windTime: 0.2, moves: { 'wind.x': { kind: 'expression', text: '12 * time' } } },
      matter: { moves: { lift: { kind: 'expression', text: '0.03 + 0.6 * time' } } },
    });
  });

  it('with fire, colour and texture coordinates', async () => {
    await resumes(
      {
        lastFrame: 4,
        sources: [{ ...puff, fuel: 2, heat: 600, colour: [1, 0.4, 0.1] }],
        matter: {
          fire: { ignition: 500, burnTime: 0.2, heat: 900, soot: 0.5, expansion: 1, loss: 300 },
          colour: true,
          coordinates: true,
        },
      },
      ['density', 'temperature', 'vel', 'fuel', 'flame', 'colour', 'uvw'],
    );
  });

  it('with a solid that turns through it in a closed room, and the trail of what touched it', async () => {
    await resumes({
      lastFrame: 5,
      bounds: { mode: 'fixed', walls: allClosed },
      stepping: { minimum: 2 },
      sources: [{ ...puff, contact: { reach: 0.3, trail: 0.3 } }],
      solids: [
        solid({
          shape: { kind: 'box', centre: [1.6, 1, 1.6], size: [1.4, 0.2, 0.4], rotation: [0, 0, 0] },
          moves: { 'shape.rotation.y': { kind: 'expression', text: '200 * time' } },
        }),
      ],
    });
  });

  it('with other schemes, on two threads', async () => {
    await resumes(
      {
        lastFrame: 4,
        voxelSize: 0.08,
        firstFrameSolved: false,
        matter: { velocityAdvection: 'reflection', scalarAdvection: 'maccormack', liftLaw: 'ideal', lift: 1 },
      },
      CHANNELS,
      2,
    );
  });

  it('refuses what is no state of it, in words', async () => {
    await withTeam(1, (team) => {
      const options = gasOptions({ lastFrame: 2 });
      const state = run(team, options, CHANNELS).states[0]!;
      const wrong = (bytes: Uint8Array, of = options): string => {
        try {
          run(team, of, CHANNELS, bytes);
        } catch (error) {
          if (isRuddleError(error, 'file-invalid')) return error.message;
        }
        return 'taken';
      };
      expect(wrong(state.subarray(0, state.length - 5))).toMatch(/ends early/);
      expect(wrong(new Uint8Array([...state, 0]))).toMatch(/longer than it says/);
      expect(wrong(new Uint8Array(40))).toMatch(/it is none/);
      expect(wrong(state, gasOptions({ lastFrame: 2, voxelSize: 0.2 }))).toMatch(/other settings/);
      expect(wrong(state, gasOptions({ lastFrame: 2, matter: { colour: true } }))).toMatch(/other settings/);
      const older = Uint8Array.from(state);
      const at = Buffer.from(older).indexOf('gas-');
      older.set(Buffer.from('old-'), at);
      expect(wrong(older)).toMatch(/it is of old-/);
    });
  });

  it('is a small part of the fields where most of the window is still', async () => {
    await withTeam(1, (team) => {
      const { states } = run(team, gasOptions({ lastFrame: 1, bounds: { mode: 'dense' } }), CHANNELS);
      // Six fields of 34 x 34 x 34 entries.
      expect(states[0]!.length).toBeLessThan(0.8 * 6 * 34 ** 3 * 4);
    });
  });
});
