import { describe, expect, it } from 'vitest';
import { type SolveSettings, resolvePlan, solveSchema, shotFieldsSchema } from '#core/shot';
import { newControl } from '#kernels';
import type { SketchMessage } from '#protocol';
import { sketchMain } from './sketch-main';

const shot = shotFieldsSchema.parse({ name: 'Puff', lastFrame: 8 });
const settings = (voxelSize: number): SolveSettings =>
  solveSchema.parse({
    detail: { voxelSize },
    bounds: { limit: { min: [0, 0, 0], max: [3.2, 3.2, 3.2] } },
    sources: [{ shape: { kind: 'ball', centre: [1.6, 0.8, 1.6], radius: 0.6 }, density: 1, heat: 200 }],
  });
const plan = (voxelSize = 0.05): ReturnType<typeof resolvePlan> => resolvePlan(shot, settings(voxelSize), 'sketch');

function open(): {
  messages: SketchMessage[];
  post: ReturnType<typeof sketchMain>;
  until: (test: (m: SketchMessage) => boolean) => Promise<void>;
} {
  const messages: SketchMessage[] = [];
  let look: () => void = () => undefined;
  const post = sketchMain(
    (m) => {
      messages.push(m);
      look();
    },
    () => undefined,
    () => Promise.reject(new Error('no geometry')),
  );
  post({ kind: 'setup', threads: 1, control: newControl(1) });
  const until = (test: (m: SketchMessage) => boolean): Promise<void> =>
    new Promise((resolve) => {
      look = () => {
        if (messages.some(test)) resolve();
      };
      look();
    });
  return { messages, post, until };
}

const frames = (messages: readonly SketchMessage[], generation: number): number[] =>
  messages.flatMap((m) => (m.kind === 'frame' && m.generation === generation ? [m.report.frame] : []));

describe('the sketch worker', () => {
  it('computes frames with pictures of every channel, the same each time', async () => {
    const { messages, post, until } = open();
    post({ kind: 'start', generation: 1, plan: plan() });
    await until((m) => m.kind === 'done' && m.generation === 1);
    expect(frames(messages, 1)).toEqual([1, 2, 3, 4, 5, 6, 7, 8]);
    const last = messages.findLast((m) => m.kind === 'frame');
    expect(last?.kind === 'frame' && last.previews.map((p) => p.channel)).toEqual(['density', 'temperature', 'vel']);
    expect(last?.kind === 'frame' && Math.max(...last.previews[0]!.preview.data)).toBe(255);
    // The same memory, used again: not a bit differs.
    post({ kind: 'start', generation: 2, plan: plan() });
    await until((m) => m.kind === 'done' && m.generation === 2);
    const density = (generation: number): number[] =>
      messages.flatMap((m) => (m.kind === 'frame' && m.generation === generation ? [...m.previews[0]!.preview.data] : []));
    expect(density(2)).toEqual(density(1));
  });

  it('a new start overtakes the one that runs; a stop ends it', async () => {
    const { messages, post, until } = open();
    post({ kind: 'start', generation: 1, plan: plan() });
    await until((m) => m.kind === 'frame');
    post({ kind: 'start', generation: 2, plan: plan(0.1) });
    await until((m) => m.kind === 'done');
    expect(messages.some((m) => m.kind === 'done' && m.generation === 1)).toBe(false);
    expect(frames(messages, 2)).toHaveLength(8);
    expect(frames(messages, 1).length).toBeLessThan(8);
    post({ kind: 'start', generation: 3, plan: plan() });
    await until((m) => m.kind === 'frame' && m.generation === 3);
    post({ kind: 'stop' });
    await new Promise((resolve) => setTimeout(resolve, 300));
    expect(messages.some((m) => m.kind === 'done' && m.generation === 3)).toBe(false);
  });

  it('an error comes as data, and the worker lives on', async () => {
    const { messages, post, until } = open();
    const huge = plan();
    // Fixed bounds over a hundred metres at 20 cm: no arena holds them.
    const wrong = {
      ...huge,
      options: {
        ...huge.options,
        bounds: { ...huge.options.bounds, mode: 'fixed', limit: { min: [0, 0, 0], max: [900, 900, 900] } },
      },
    };
    post({ kind: 'start', generation: 1, plan: wrong as unknown as typeof huge });
    await until((m) => m.kind === 'failed');
    const failure = messages.find((m) => m.kind === 'failed');
    expect(failure?.kind === 'failed' && failure.error.tag).toBe('arena-too-small');
    post({ kind: 'start', generation: 2, plan: plan(0.1) });
    await until((m) => m.kind === 'done');
    expect(frames(messages, 2)).toHaveLength(8);
  });

  it('goes on with the next settings after a kernel failed', async () => {
    const { messages, post, until } = open();
    const absurd = plan();
    // A window whose fields would lie beyond all memory: whatever fails of it must not stay.
    const broken = {
      ...absurd,
      options: { ...absurd.options, voxelSize: 1e-4, bounds: { ...absurd.options.bounds, mode: 'fixed' as const } },
    };
    post({ kind: 'start', generation: 1, plan: broken as typeof absurd });
    await until((m) => m.kind === 'failed' && m.generation === 1);
    post({ kind: 'start', generation: 2, plan: plan() });
    await until((m) => m.kind === 'done' && m.generation === 2);
    expect(frames(messages, 2)).toHaveLength(8);
  });

  it('of several bounds, which it computes in turn, tells the time of all', async () => {
    const { messages, post, until } = open();
    const two = solveSchema.parse({
      detail: { voxelSize: 0.1 },
      bounds: {
        limit: { min: [0, 0, 0], max: [3.2, 3.2, 3.2] },
        beside: [{ name: 'Far', limit: { min: [20, 0, 0], max: [23.2, 3.2, 3.2] }, voxelSize: 0.1 }],
      },
      sources: [1.6, 21.6].map((x) => ({ shape: { kind: 'ball', centre: [x, 0.8, 1.6], radius: 0.6 }, density: 1, heat: 200 })),
    });
    post({ kind: 'start', generation: 1, plan: resolvePlan(shot, two, 'sketch') });
    await until((m) => m.kind === 'done' && m.generation === 1);
    const reports = messages.flatMap((m) => (m.kind === 'frame' && 'parts' in m.report ? [m.report] : []));
    expect(reports).toHaveLength(8);
    for (const { totalSeconds, parts, seconds } of reports) {
      expect(parts).toHaveLength(2);
      expect(totalSeconds).toBeCloseTo(
        parts!.reduce((n, p) => n + p.totalSeconds, 0),
        12,
      );
      expect(seconds.pressure).toBeCloseTo(
        parts!.reduce((n, p) => n + p.seconds.pressure, 0),
        12,
      );
    }
  });
});
