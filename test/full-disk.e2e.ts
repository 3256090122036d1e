import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { SHOT_VERSION } from '#core/shot';
import type { RunDetailDto, RunDto, ShotDto } from '#protocol';
import { settingsOf } from '../src/testing/values/index';

/** What runs leave to others: the database is on this disk too. */
const KEEP = 8e6;

const rest = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

const shotFile = {
  ruddle: SHOT_VERSION,
  name: 'Sacks',
  lastFrame: 80,
  variants: [
    {
      name: 'First',
      settings: settingsOf({
        detail: { voxelSize: 0.06 },
        bounds: { limit: { min: [0, 0, 0], max: [3.2, 4.2, 3.2] } },
        sources: [{ shape: { kind: 'ball', centre: [1.6, 0.8, 1.6], radius: 0.5 }, heat: 250, velocity: [0, 2, 0] }],
      }),
    },
  ],
};

/** A server whose data lie on a disk of 64 MB of its own. `inside` is that disk as this process sees it. */
async function onSmallDisk(data: string): Promise<{ child: ChildProcess; address: string; inside: string }> {
  const script = `mount -t tmpfs -o size=64m tmpfs '${data}' && exec '${process.execPath}' server.mjs`;
  const env = {
    ...process.env,
    RUDDLE_DATA: data,
    RUDDLE_PORT: '0',
    RUDDLE_DEMO: '0',
    RUDDLE_CALIBRATE: '0',
    RUDDLE_KEEP_BYTES: String(KEEP),
  };
  const child = spawn('unshare', ['-rm', 'sh', '-c', script], { env, stdio: ['ignore', 'pipe', 'inherit'] });
  const address = await new Promise<string>((resolve, reject) => {
    let text = '';
    child.stdout.on('data', (chunk: Buffer) => {
      text += chunk.toString();
      const found = /Ruddle is at (http:\S+)/.exec(text)?.[1];
      if (found !== undefined) resolve(found);
    });
    child.on('exit', (code) => {
      reject(new Error(`the server ended with ${String(code)}`));
    });
  });
  return { child, address, inside: `/proc/${String(child.pid)}/root${data}` };
}

/** Not every system lets a user mount a disk of his own. */
const MOUNTS = spawnSync('unshare', ['-rm', 'true']).status === 0;

describe.skipIf(!MOUNTS)('a disk that fills', () => {
  it('pauses the run with whole frames and says how much it needs; when there is room it goes on to the same files', async () => {
    const data = mkdtempSync(join(tmpdir(), 'ruddle-full-'));
    const { child, address, inside } = await onSmallDisk(data);
    const ask = async <T>(path: string, body?: object): Promise<T> => {
      const init = body && { method: 'POST', headers: { 'content-type': 'application/json', origin: address }, body: JSON.stringify(body) };
      const answer = await fetch(`${address}/api${path}`, init);
      if (!answer.ok) throw new Error(await answer.text());
      return (await answer.json()) as T;
    };
    const reaches = async (id: string, states: readonly string[]): Promise<RunDto> => {
      for (;;) {
        const { run } = await ask<RunDetailDto>(`/runs/${id}`);
        if (states.includes(run.state)) return run;
        await rest(100);
      }
    };
    const ENDED = ['paused', 'done', 'failed', 'cancelled', 'interrupted'];
    const sumsOf = (run: RunDto): unknown =>
      (
        JSON.parse(readFileSync(join(inside, run.folder.slice(data.length), 'run.json'), 'utf8')) as { frames: { files: unknown }[] }
      ).frames.map((f) => f.files);
    try {
      const shot = await ask<ShotDto>('/shots', shotFile);
      const start = (): Promise<RunDto> => ask('/runs', { variantId: shot.variants[0]!.id, rung: 'test', overBudget: true });
      const whole = await reaches((await start()).id, ENDED);
      expect(whole).toMatchObject({ state: 'done' });
      expect(whole.bytes).toBeLessThan(2e7);
      const sums = sumsOf(whole);
      // Somebody else takes the room while it computes; a third of what it needs is left.
      const run = await start();
      while ((await ask<RunDetailDto>(`/runs/${run.id}`)).run.framesDone < 2) await rest(20);
      const { bavail, bsize } = statfsSync(inside);
      const filler = join(inside, 'filler');
      writeFileSync(filler, Buffer.alloc(Math.round(bavail * bsize - KEEP - whole.bytes / 3), 1));
      const paused = await reaches(run.id, ENDED);
      expect(paused.state).toBe('paused');
      expect(paused.error).toMatchObject({
        tag: 'disk-full',
        message: expect.stringMatching(/about [\d.]+ MB more are needed, .*goes on by itself/) as string,
      });
      expect(paused.framesDone).toBeGreaterThan(2);
      expect(paused.framesDone).toBeLessThan(80);
      expect(await ask(`/runs/${run.id}/verify`, {})).toMatchObject({ damaged: [], missing: [] });
      // Too little room is no room: it stays paused.
      await rest(4000);
      expect((await reaches(run.id, ENDED)).state).toBe('paused');
      rmSync(filler);
      await reaches(run.id, ['running', 'done']);
      expect((await reaches(run.id, ENDED)).state).toBe('done');
      expect(sumsOf(run)).toEqual(sums);
    } finally {
      child.kill();
      await new Promise((resolve) => child.once('exit', resolve));
      rmSync(data, { recursive: true, force: true });
    }
  });
});
