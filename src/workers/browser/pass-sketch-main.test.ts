import { beforeAll, describe, expect, it } from 'vitest';
import { decodePreview, writeFrameFile } from '#core/formats';
import { channelsOf, solveGas } from '#core/gas';
import { Chain, passSketch } from '#core/passes';
import { resolvePlan, gasSolveOf } from '#core/shot';
import { newControl } from '#kernels';
import type { PassSketchMessage, PassSketchStart } from '#protocol';
import { withTeam } from '#testing';
import { makeShot, settingsOf } from '#testing/values';
import { type ReadFile, passSketchMain } from './pass-sketch-main';

const fields = { ...makeShot().fields, firstFrame: 1, lastFrame: 30, preRoll: 0 };
const settings = settingsOf(
  {
    detail: { voxelSize: 0.1 },
    bounds: { limit: { min: [0, 0, 0], max: [3.2, 3.2, 3.2] } },
    sources: [{ shape: { kind: 'ball', centre: [1.6, 0.8, 1.6], radius: 0.5 }, density: 1, heat: 200, velocity: [0, 2, 0] }],
  },
  [{ id: 'fine', kind: 'detail', name: 'Fine' }],
);
const solve = resolvePlan(fields, gasSolveOf(settings), 'test');
const files = new Map<number, Uint8Array<ArrayBuffer>>();
const { plan: whole } = new Chain(fields, settings, { run: () => null, folder: () => null }).entry('fine', 'test');

beforeAll(async () => {
  await withTeam(1, (team) => {
    const names = channelsOf(solve.options);
    for (const { report, grids } of solveGas(solve.options, { team, clock: () => 0, channels: { names }, cancelled: () => false })) {
      const uuid = '00000000-0000-0000-0000-000000000000';
      files.set(
        report.frame,
        writeFrameFile(grids, { ...solve.file, voxelSize: solve.options.voxelSize, precision: 'full', compression: 'none', uuid }),
      );
    }
  });
});

function open(read: (frame: number) => Uint8Array<ArrayBuffer> | undefined = (f) => files.get(f)) {
  const messages: PassSketchMessage[] = [];
  const asked: number[] = [];
  let look: () => void = () => undefined;
  const file: ReadFile = (run, frame) => {
    asked.push(frame);
    const bytes = read(frame);
    if (!bytes) throw new Error(`${run} has no frame ${String(frame)}`);
    return bytes;
  };
  const post = passSketchMain(
    (m) => {
      messages.push(m);
      look();
    },
    () => undefined,
    () => Promise.reject(new Error('no geometry')),
    file,
  );
  post({ kind: 'setup', threads: 1, control: newControl(1) });
  const until = (test: (m: PassSketchMessage) => boolean): Promise<void> =>
    new Promise((resolve) => {
      look = () => {
        if (messages.some(test)) resolve();
      };
      look();
    });
  return { messages, asked, post, until };
}

const startOf = (generation: number, frame: number): PassSketchStart => {
  const sketch = passSketch(whole!, frame)!;
  const gives = { output: 'vdb', voxelSizes: [solve.options.voxelSize], channels: channelsOf(solve.options), file: solve.file } as const;
  return { kind: 'start', generation, ...sketch, inputs: { cache: { run: 'run-1', gives: { ...gives, frames: whole!.frames } } } };
};
const shown = (messages: readonly PassSketchMessage[], generation: number): number[] =>
  messages.flatMap((m) => (m.kind === 'frame' && m.generation === generation && m.shown ? [m.report.frame] : []));

describe('the worker that sketches passes', () => {
  it('leads up to eight frames and shows those, with pictures; it reads each frame of the base once', async () => {
    const { messages, asked, post, until } = open();
    post(startOf(1, 20));
    await until((m) => m.kind === 'done' || m.kind === 'failed');
    expect(messages.filter((m) => m.kind === 'failed')).toEqual([]);
    expect(shown(messages, 1)).toEqual([20, 21, 22, 23, 24, 25, 26, 27]);
    expect(asked).toEqual(Array.from({ length: 24 }, (_v, n) => 4 + n));
    const frames = messages.flatMap((m) => (m.kind === 'frame' ? [m] : []));
    expect(frames.filter((f) => !f.shown).every((f) => f.previews.length === 0)).toBe(true);
    const last = frames[frames.length - 1]!;
    expect(last.previews.map((p) => p.channel)).toEqual(['density', 'temperature', 'vel']);
    expect(Math.max(...decodePreview(last.previews[0]!.bytes)!.data)).toBe(255);
  });

  it('is ended by another, and says why it cannot go on', async () => {
    const { messages, post, until } = open((f) => (f > 9 ? undefined : files.get(f)));
    post(startOf(1, 20));
    await until((m) => m.kind === 'frame');
    post(startOf(2, 1));
    await until((m) => m.kind === 'done' && m.generation === 2);
    expect(shown(messages, 1)).toEqual([]);
    expect(shown(messages, 2)).toEqual([1, 2, 3, 4, 5, 6, 7, 8]);
    post(startOf(3, 20));
    await until((m) => m.kind === 'failed');
    const failed = messages.find((m) => m.kind === 'failed');
    expect(failed?.kind === 'failed' && failed.error.message).toMatch(/run-1 has no frame 10/);
  });
});
