import { mkdtempSync, readFileSync, rmSync, truncateSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { inflateSync } from 'node:zlib';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { decodePreview } from '#core/formats';
import { SHOT_VERSION, parseWith, shotFileSchema } from '#core/shot';
import { openApp, type App } from '#server/app';
import { settingsOf } from '#testing/values';
import { frameData } from './frame-data';

let folder = '';
let app: App;
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'ruddle-frames-'));
  vi.spyOn(console, 'log').mockImplementation(() => undefined);
  const config = {
    root: process.cwd(),
    data: folder,
    threads: 1,
    memoryBytes: 16e9,
    keepBytes: 0,
    demo: false,
    calibrate: false,
    version: 'test',
  };
  app = await openApp(config);
});
afterEach(async () => {
  await app.close();
  rmSync(folder, { recursive: true, force: true });
  vi.restoreAllMocks();
});

/** The solve and the particles of a puff, three frames of each. */
async function runs(): Promise<{ readonly solve: { id: string; folder: string }; readonly sparks: { id: string; folder: string } }> {
  const settings = settingsOf(
    {
      detail: { voxelSize: 0.2 },
      bounds: { limit: { min: [0, 0, 0], max: [3.2, 3.2, 3.2] } },
      sources: [{ name: 'Vent', shape: { kind: 'ball', centre: [1.6, 0.8, 1.6], radius: 0.5 } }],
    },
    [{ id: 'sparks', kind: 'particles', name: 'Sparks', settings: { perSecond: 2400 } }],
  );
  const shot = await app.shots.add(
    parseWith(shotFileSchema, { ruddle: SHOT_VERSION, name: 'Puff', lastFrame: 3, variants: [{ name: 'One', settings }] }, 'test'),
  );
  const { id } = await app.shots.startRun(shot.variants[0]!.id, 'test', app.runner, { pass: 'sparks' });
  for (;;) {
    const run = await app.runs.get(id);
    if (run.state === 'done') return { solve: (await app.shots.get(shot.id)).runs[0]!, sparks: run };
    if (run.state === 'failed') throw new Error(run.error?.message);
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
}

const ask = (run: string, frame: string, channel: string, headers: Record<string, string> = {}): Promise<Response> =>
  frameData(app, run, frame, channel, null, new Request('http://127.0.0.1/', { headers }));
const bytes = async (response: Response): Promise<Buffer> => Buffer.from(await response.arrayBuffer());

describe("a frame's data", () => {
  it('is a channel to be looked at, packed; or the very file, of voxels and of particles', async () => {
    const { solve, sparks } = await runs();
    const density = await ask(solve.id, '2', 'density');
    expect(density.headers.get('content-encoding')).toBe('deflate');
    expect(decodePreview(new Uint8Array(inflateSync(await bytes(density))))).not.toBeNull();
    const volume = await ask(solve.id, '2', 'file');
    expect(volume.headers.get('content-encoding')).toBeNull();
    expect((await bytes(volume)).equals(readFileSync(join(solve.folder, 'solve.0002.vdb')))).toBe(true);
    const points = await ask(sparks.id, '3', 'file');
    expect((await bytes(points)).equals(readFileSync(join(sparks.folder, 'particles.0003.ply')))).toBe(true);
    // It never changes: asked for again, nothing is sent.
    const etag = volume.headers.get('etag') ?? '';
    expect((await ask(solve.id, '2', 'file', { 'if-none-match': etag })).status).toBe(304);
  });

  it.each([
    ['99', 'file', 'not-found'],
    ['2', 'secrets', 'not-found'],
    ['two', 'file', 'not-found'],
    ['2', 'flame', 'not-found'],
  ])('frame %s, %s is refused', async (frame, channel, tag) => {
    const { solve } = await runs();
    await expect(ask(solve.id, frame, channel)).rejects.toMatchObject({ tag });
  });

  it('a damaged file is refused and remembered', async () => {
    const { solve } = await runs();
    truncateSync(join(solve.folder, 'solve.0002.vdb'), 100);
    await expect(ask(solve.id, '2', 'file')).rejects.toMatchObject({ tag: 'file-invalid' });
    expect(await app.runs.get(solve.id)).toMatchObject({ damagedFrames: 1 });
  });
});
