import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, readdirSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { Chain, type FollowerPlan } from '#core/passes';
import type { CacheFacts } from '#core/pass';
import { parseShotFile } from '#core/shot';
import { startPass } from './pass';

const folder = mkdtempSync(join(tmpdir(), 'ruddle-pass-'));
afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
});

const gives: CacheFacts = {
  output: 'ply',
  voxelSizes: [],
  channels: ['x', 'y', 'z'],
  file: { metresPerUnit: 1, upAxis: 'y', timeScale: 1 },
  frames: { first: 1, last: 1, every: 1 },
};

/** A skin of the particles in the folder. */
function plan(): FollowerPlan {
  const input = { pass: 'solve', rung: 'same', run: null, folder };
  const skin = { id: 'skin', kind: 'surface', name: 'Skin', input, settings: { distance: { spacing: 1 } } };
  const solve = { id: 'solve', kind: 'liquid', name: 'Solve', settings: { bounds: { limit: { min: [-9, -9, -9], max: [9, 9, 9] } } } };
  const variants = [{ name: 'One', settings: { scene: {}, passes: [solve, skin] } }];
  const shot = parseShotFile(JSON.stringify({ ruddle: 5, name: 'Grains', variants }), 'grains.json');
  const outside = { run: () => null, folder: () => ({ key: 'grains', gives }) };
  const entry = new Chain(shot, shot.variants[0]!.settings, outside).entry('skin', 'final');
  if (entry.problem !== null) throw new Error(entry.problem);
  return entry.plan;
}

const start = (file: string, bytes: number): ReturnType<typeof startPass> =>
  startPass({
    plan: plan(),
    key: 'key',
    inputs: { cache: { folder, gives, frames: { 1: [{ file, bytes, checksum: null }] } } },
    geometry: {},
    threads: 1,
    have: [],
    from: null,
    states: false,
    onFrame: () => Promise.resolve(),
    onState: () => Promise.resolve(),
  });

/** Children of this process that read files for it. */
const readers = (): number[] =>
  readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .map(Number)
    .filter((pid) => {
      try {
        const parent = /^PPid:\s+(\d+)/m.exec(readFileSync(`/proc/${String(pid)}/status`, 'utf8'))?.[1];
        return parent === String(process.pid) && readFileSync(`/proc/${String(pid)}/cmdline`, 'utf8').includes('reading.worker');
      } catch {
        return false;
      }
    });

describe('a pass over a folder from outside', () => {
  it('refuses a FIFO that took the place of a file, and waits for nobody to write into it', async () => {
    execFileSync('mkfifo', [join(folder, 'grain.1.ply')]);
    await expect(start('grain.1.ply', 100).finished).rejects.toMatchObject({
      tag: 'file-invalid',
      message: expect.stringMatching(/grain\.1\.ply is no regular file/) as string,
    });
    expect(readers()).toEqual([]);
  });

  it('is cancelled while a file gives no more bytes: as on a disk that hangs', async () => {
    writeFileSync(join(folder, 'slow.1.ply'), '');
    truncateSync(join(folder, 'slow.1.ply'), 1.5e9);
    const run = start('slow.1.ply', 1.5e9);
    const finished = run.finished.catch((error: unknown) => error);
    let [pid] = readers();
    while (pid === undefined) {
      await new Promise((resolve) => setTimeout(resolve, 2));
      [pid] = readers();
    }
    process.kill(pid, 'SIGSTOP');
    const silence = new Promise((resolve) => setTimeout(resolve, 300, 'nothing'));
    expect(await Promise.race([finished, silence])).toBe('nothing');
    run.cancel();
    expect(await finished).toMatchObject({ tag: 'cancelled' });
    expect(readers()).toEqual([]);
  });
});

describe('a pass that computes its pre-roll within its first frame', () => {
  const head = 'ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nend_header\n';
  const dust = join(folder, 'dust');

  function fedPlan(): FollowerPlan {
    const input = { pass: 'solve', rung: 'same', run: null, folder: dust };
    const limit = { min: [0, 0, 0], max: [1.6, 1.6, 1.6] };
    const solve = {
      id: 'solve',
      kind: 'gas',
      name: 'Solve',
      settings: {
        detail: { voxelSize: 0.1 },
        bounds: { limit },
        sources: [{ shape: { kind: 'ball', centre: [0.8, 0.5, 0.8], radius: 0.3 } }],
      },
    };
    const fed = { id: 'fed', kind: 'fed', name: 'Fed', input, settings: { inherits: 0 } };
    const file = {
      ruddle: 5,
      name: 'Dust',
      lastFrame: 2,
      preRoll: 40,
      variants: [{ name: 'One', settings: { scene: {}, passes: [solve, fed] } }],
    };
    const shot = parseShotFile(JSON.stringify(file), 'dust.json');
    const outside = { run: () => null, folder: () => ({ key: 'dust', gives: { ...gives, frames: { first: 1, last: 2, every: 1 } } }) };
    const entry = new Chain(shot, shot.variants[0]!.settings, outside).entry('fed', 'final');
    if (entry.problem !== null) throw new Error(entry.problem);
    return entry.plan;
  }

  /** Computes it; the states that it offered on the way, and the bytes of its frames. */
  async function compute(from: { frame: number; bytes: Uint8Array<ArrayBuffer> } | null) {
    const states: { frame: number; bytes: Uint8Array<ArrayBuffer> }[] = [];
    const frames: Uint8Array[] = [];
    const files = [1, 2].map((n) => [n, [{ file: `dust.${String(n)}.ply`, bytes: head.length + 12, checksum: null }]] as const);
    await startPass({
      plan: fedPlan(),
      key: 'key',
      inputs: { cache: { folder: dust, gives, frames: Object.fromEntries(files) } },
      geometry: {},
      threads: 1,
      have: [],
      from,
      states: true,
      statesEvery: 0,
      onFrame: ({ parts }) => {
        frames.push(...parts.map((p) => p.bytes));
        return Promise.resolve();
      },
      onState: (frame, bytes) => {
        states.push({ frame, bytes });
        return Promise.resolve();
      },
    }).finished;
    return { states, frames };
  }

  it('keeps states on the way, and goes on from one to the same frames', async () => {
    mkdirSync(dust);
    for (const n of [1, 2]) writeFileSync(join(dust, `dust.${String(n)}.ply`), `${head}0.8 0.8 0.8\n`);
    const whole = await compute(null);
    expect(whole.frames).toHaveLength(2);
    expect(whole.states.length).toBeGreaterThan(0);
    expect(Math.max(...whole.states.map((s) => s.frame))).toBeLessThan(1);
    const further = await compute(whole.states[whole.states.length - 1]!);
    expect(further.frames).toEqual(whole.frames);
  });
});
