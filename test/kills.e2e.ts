import { mkdtempSync, readFileSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import type { RunDetailDto, RunDto, ShotDto } from '#protocol';
import { SHOT_VERSION } from '#core/shot';
import { type ServerProcess, startServer } from './server-process';
import { settingsOf } from '../src/testing/values/index';

/** With each commit; `npm run kills` asks for more. */
const KILLS = Number(process.env['RUDDLE_KILLS'] ?? 6);
const FRAMES = 120;

/** The same moments every time. */
function seeded(seed: number): () => number {
  let s = seed;
  return () => {
    s = (Math.imul(s, 1664525) + 1013904223) >>> 0;
    return s / 2 ** 32;
  };
}

const shotFile = {
  ruddle: SHOT_VERSION,
  name: 'Drying rack',
  lastFrame: FRAMES,
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

const rest = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

describe('a night of power cuts', () => {
  it(`killed at ${String(KILLS)} moments, runs go on by themselves to the files of one that was never interrupted`, async () => {
    const data = mkdtempSync(join(tmpdir(), 'ruddle-kills-'));
    const env = { RUDDLE_DATA: data, RUDDLE_PORT: '0', RUDDLE_DEMO: '0', RUDDLE_CALIBRATE: '0' };
    const random = seeded(20261127);
    let server: ServerProcess = await startServer(env);
    const get = async <T>(path: string): Promise<T> => (await (await fetch(`${server.address}/api${path}`)).json()) as T;
    const post = async <T>(path: string, body: object): Promise<T> => {
      const init = { method: 'POST', headers: { 'content-type': 'application/json', origin: server.address }, body: JSON.stringify(body) };
      const answer = await fetch(`${server.address}/api${path}`, init);
      if (!answer.ok) throw new Error(await answer.text());
      return (await answer.json()) as T;
    };
    const over = async (id: string): Promise<RunDto> => {
      for (;;) {
        const { run } = await get<RunDetailDto>(`/runs/${id}`);
        if (run.state !== 'queued' && run.state !== 'running') return run;
        await rest(100);
      }
    };
    const filesOf = (run: RunDto): unknown =>
      (JSON.parse(readFileSync(join(run.folder, 'run.json'), 'utf8')) as { frames: { frame: number; files: unknown }[] }).frames.map(
        (f) => [f.frame, f.files],
      );
    try {
      const shot = await post<ShotDto>('/shots', shotFile);
      const variantId = shot.variants[0]!.id;
      const start = (): Promise<RunDto> => post('/runs', { variantId, rung: 'test', overBudget: true });
      const whole = filesOf(await over((await start()).id));
      const cut = new Set<string>();
      let run = await start();
      let [inTheMiddle, fromState] = [0, 0];
      for (let kill = 0; kill < KILLS; kill++) {
        // A moment is a frame and some milliseconds, not a time: however busy the machine is, it falls into the middle of a run.
        const before = (await get<RunDetailDto>(`/runs/${run.id}`)).run.framesDone;
        const until = Math.min(FRAMES - 25, before + 2 + Math.floor((FRAMES / 3) * random()));
        // States are kept by the clock: every other kill waits for one, so that a fast machine goes on from states too.
        const kept = (folder: string): boolean =>
          readdirSync(folder, { recursive: true, encoding: 'utf8' }).some((f) => f.endsWith('.state'));
        let now: RunDto;
        do {
          await rest(20);
          now = (await get<RunDetailDto>(`/runs/${run.id}`)).run;
        } while (
          (now.state === 'queued' || now.state === 'running') &&
          (now.framesDone < until || (kill % 2 === 1 && now.framesDone < FRAMES - 5 && !kept(now.folder)))
        );
        await rest(80 * random());
        const stored = now.framesDone;
        if (now.state === 'running' && stored > 0 && stored < FRAMES) inTheMiddle++;
        if (kept(now.folder)) fromState++;
        await server.stop('SIGKILL');
        server = await startServer(env);
        const after = (await get<RunDetailDto>(`/runs/${run.id}`)).run;
        // Nothing that was finished is lost.
        expect(after.framesDone).toBeGreaterThanOrEqual(stored);
        cut.add(run.id);
        if (after.state === 'interrupted') await post(`/runs/${run.id}/continue`, {});
        if (after.state === 'done') run = await start();
      }
      // The moments were in the middle of frames, and runs that had states went on.
      expect(inTheMiddle).toBeGreaterThan(KILLS / 2);
      expect(fromState).toBeGreaterThanOrEqual(KILLS / 3);
      for (const id of [...cut, run.id]) {
        const ended = await over(id);
        expect(ended.state).toBe('done');
        expect(filesOf(ended)).toEqual(whole);
        expect(await post(`/runs/${id}/verify`, {})).toMatchObject({ damaged: [], missing: [] });
      }
    } finally {
      await server.stop();
      rmSync(data, { recursive: true, force: true });
    }
  });
});
