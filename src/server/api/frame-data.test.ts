import { mkdirSync, readFileSync, renameSync, rmSync, symlinkSync, truncateSync, writeFileSync } from 'node:fs';
import { performance } from 'node:perf_hooks';
import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { AnyRunDto } from '#protocol';
import { type OpenFolder, ballShot, finishedRun, inFolder } from '#server/testing';
import { frameData } from './frame-data';

let at: OpenFolder;
let run: AnyRunDto;
beforeEach(async () => {
  vi.spyOn(console, 'log').mockImplementation(() => undefined);
  at = await inFolder({ still: true });
  run = await finishedRun(at.app, await at.app.shots.add(ballShot({ lastFrame: 3 })), { bytes: 3_000_000 });
});
afterEach(async () => {
  await at.close();
  vi.restoreAllMocks();
});

const ask = (frame: string, channel: string, headers: Record<string, string> = {}, drained = () => Promise.resolve()): Promise<Response> =>
  frameData(at.app, run.id, frame, channel, null, new Request('http://127.0.0.1/', { headers }), drained);
const bytes = async (response: Response): Promise<Buffer> => Buffer.from(await response.arrayBuffer());
const path = (frame = 2): string => join(run.folder, `solve.000${String(frame)}.vdb`);
const health = async (): Promise<Pick<AnyRunDto, 'damagedFrames' | 'missingFrames'>> => {
  const { damagedFrames, missingFrames } = await at.app.runs.get(run.id);
  return { damagedFrames, missingFrames };
};

describe("a frame's data", () => {
  it('is a channel to be looked at, packed; or the very file', async () => {
    const density = await ask('2', 'density');
    expect(density.headers.get('content-encoding')).toBe('deflate');
    expect((await bytes(density)).equals(readFileSync(join(run.folder, 'previews/solve.2.density.preview')))).toBe(true);
    const volume = await ask('2', 'file');
    expect(volume.headers.get('content-encoding')).toBeNull();
    expect(volume.headers.get('content-length')).toBe('3000000');
    expect((await bytes(volume)).equals(readFileSync(path()))).toBe(true);
    // It never changes: asked for again, nothing is sent.
    const etag = volume.headers.get('etag') ?? '';
    expect((await ask('2', 'file', { 'if-none-match': etag })).status).toBe(304);
  });

  it.each([
    ['99', 'file'],
    ['2', 'secrets'],
    ['two', 'file'],
    ['2', 'flame'],
  ])('frame %s, %s is refused', async (frame, channel) => {
    await expect(ask(frame, channel)).rejects.toMatchObject({ tag: 'not-found' });
    expect(await health()).toEqual({ damagedFrames: 0, missingFrames: 0 });
  });

  it.each([
    ['of another size', () => truncateSync(path(), 100), /it has 100 of 3000000 bytes/],
    [
      'with another byte',
      () => {
        const b = readFileSync(path());
        b[2_000_000]! ^= 1;
        writeFileSync(path(), b);
      },
      /its checksum differs/,
    ],
    ['a folder', () => (rmSync(path()), mkdirSync(path())), /it has \d+ of 3000000 bytes/],
    ['a FIFO', () => (rmSync(path()), execFileSync('mkfifo', [path()])), /it has 0 of 3000000 bytes/],
  ])('that is %s is refused as damaged, and remembered', async (_what, spoil, why) => {
    spoil();
    await expect(ask('2', 'file')).rejects.toMatchObject({ tag: 'file-invalid', message: expect.stringMatching(why) as string });
    expect(await health()).toEqual({ damagedFrames: 1, missingFrames: 0 });
  });

  it('that is gone is refused as missing, and remembered', async () => {
    rmSync(path());
    await expect(ask('2', 'file')).rejects.toMatchObject({ tag: 'not-found' });
    expect(await health()).toEqual({ damagedFrames: 0, missingFrames: 1 });
  });

  it('that cannot be read now is neither damaged nor missing: once it can be, it is sent', async () => {
    // Links in a circle stand in for a disk that answers with an error: nobody may be refused by rights as the tests may run as root.
    renameSync(path(), `${path()}.away`);
    symlinkSync('solve.0002.vdb', path());
    await expect(ask('2', 'file')).rejects.toMatchObject({
      tag: 'unreadable',
      message: expect.stringMatching(/cannot be read now/) as string,
    });
    expect(await health()).toEqual({ damagedFrames: 0, missingFrames: 0 });
    expect(await at.app.runs.verify(run.id)).toMatchObject({ damaged: [], missing: [], unreadable: [2] });
    expect(await health()).toEqual({ damagedFrames: 0, missingFrames: 0 });
    rmSync(path());
    renameSync(`${path()}.away`, path());
    expect((await bytes(await ask('2', 'file'))).length).toBe(3_000_000);
    expect(await at.app.runs.verify(run.id)).toMatchObject({ damaged: [], missing: [], unreadable: [] });
  });

  it('is sent no faster than it is taken, and let go when nobody wants it any more', async () => {
    let taken = 0;
    let let_ = (): void => undefined;
    const slow = (): Promise<void> => new Promise((resolve) => (let_ = resolve));
    const reader = (await ask('2', 'file', {}, slow)).body!.getReader();
    const first = reader.read();
    await new Promise((resolve) => setTimeout(resolve, 50));
    let_();
    taken += (await first).value!.length;
    expect(taken).toBeLessThan(1_000_000);
    await reader.cancel();
    // Its file can go: nothing holds it open.
    const open = (): boolean => execFileSync('ls', ['-l', `/proc/${String(process.pid)}/fd`], { encoding: 'utf8' }).includes(path());
    await expect.poll(open).toBe(false);
  });

  it('is held against its checksum on another thread: this one hashes none of a large file', async () => {
    // Hashing it takes a good part of a second.
    const large = await finishedRun(at.app, await at.app.shots.add(ballShot({ lastFrame: 1, name: 'Large' })), { bytes: 200_000_000 });
    run = large;
    await ask('1', 'density');
    const before = performance.eventLoopUtilization();
    const response = await ask('1', 'file');
    const busy = performance.eventLoopUtilization(before);
    expect(response.headers.get('content-length')).toBe('200000000');
    // The part of the time in which this thread worked: a ratio, however busy the machine is.
    expect(busy.active / (busy.active + busy.idle)).toBeLessThan(0.5);
    await response.body!.cancel();
  });
});
