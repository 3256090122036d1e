import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, rmSync, symlinkSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, afterEach, describe, expect, it } from 'vitest';
import { Reading } from '.';

const folder = mkdtempSync(join(tmpdir(), 'ruddle-reading-'));
const open: Reading[] = [];
const reading = (limits: ConstructorParameters<typeof Reading>[0] = {}): Reading => {
  const one = new Reading(limits);
  open.push(one);
  return one;
};
afterEach(() => {
  for (const one of open.splice(0)) one.close();
});
afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
});

const convention = { metresPerUnit: 1, upAxis: 'y', timeScale: 1 } as const;
const head = 'ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nend_header\n';
let made = 0;
const cache = (names: readonly string[]): string => {
  const path = join(folder, String(made++));
  mkdirSync(path);
  for (const name of names) writeFileSync(join(path, name), `${head}0 0 0\n`);
  return path;
};
const problemOf = async (path: string, limits?: ConstructorParameters<typeof Reading>[0]): Promise<string> => {
  const found = await reading(limits).look(path, convention, true);
  return 'problem' in found ? found.problem : 'can be read';
};

describe('a folder that a pass reads', () => {
  it('is told by its names, sizes and one head', async () => {
    const found = await reading().look(cache(['a.4.ply', 'a.2.ply', 'notes.txt']), convention, true);
    expect(found).toMatchObject({
      gives: { output: 'ply', channels: ['x', 'y', 'z'], frames: { first: 2, last: 4, every: 2 } },
      files: { 2: { file: 'a.2.ply' }, 4: { bytes: head.length + 6 } },
    });
  });

  it('is refused in words where its files are none: FIFO, device, folder, link to nowhere, no end, two of a number', async () => {
    const fifo = cache(['a.1.ply']);
    execFileSync('mkfifo', [join(fifo, 'a.2.ply')]);
    expect(await problemOf(fifo)).toBe(`In ${fifo} a.2.ply is no regular file. Remove it, or name another folder.`);
    const zero = cache(['a.1.ply']);
    symlinkSync('/dev/zero', join(zero, 'a.2.ply'));
    expect(await problemOf(zero)).toMatch(/a\.2\.ply is no regular file/);
    const below = cache(['a.1.ply']);
    mkdirSync(join(below, 'a.2.ply'));
    expect(await problemOf(below)).toMatch(/a\.2\.ply is a folder/);
    const nowhere = cache(['a.1.ply']);
    symlinkSync(join(folder, 'nothing'), join(nowhere, 'a.2.ply'));
    expect(await problemOf(nowhere)).toMatch(/a\.2\.ply is a link that leads nowhere/);
    const huge = cache(['a.1.ply']);
    truncateSync(join(huge, 'a.1.ply'), 3e9);
    expect(await problemOf(huge)).toMatch(/a\.1\.ply is too large: 3\.0 GB/);
    const twice = cache(['a.1.ply', 'a.01.ply']);
    expect(await problemOf(twice)).toMatch(/a\.01\.ply and a\.1\.ply are both frame 1/);
    // What frames lie between is counted by names, not one by one.
    const apart = cache(['a.1.ply', 'a.2.ply', 'a.900000000000000.ply']);
    expect(await problemOf(apart)).toMatch(/frame 3 is missing, between 1 and 900000000000000/);
    const closed = cache(['a.1.ply']);
    const wasRoot = process.getuid?.() === 0;
    if (!wasRoot) spawnSync('chmod', ['000', join(closed, 'a.1.ply')]);
    expect(await problemOf(closed)).toMatch(wasRoot ? /can be read/ : /a\.1\.ply cannot be read: it may not be read/);
  });

  it('with more names than a cache has is refused after so many', async () => {
    const crowded = join(folder, 'crowded');
    mkdirSync(crowded);
    execFileSync('python3', [
      '-c',
      `import os\nfor n in range(100001): os.mknod(os.path.join(${JSON.stringify(crowded)}, 'a.%d.ply' % n))`,
    ]);
    expect(await problemOf(crowded)).toMatch(/holds more than 100000 names: put the cache into a folder of its own/);
  });

  it('that gives no answer is given up, told, and not waited for again', async () => {
    const one = reading({ lookSeconds: 0 });
    const path = cache(['a.1.ply']);
    const asked = await one.look(path, convention, false);
    expect(asked).toEqual({ problem: expect.stringMatching(/gave no answer in 0 ms: look whether its disk is there\.$/) as string });
    expect(await one.look(path, convention, false)).toEqual(asked);
  });
});

describe('a file', () => {
  it('comes whole, however large, one after the other', async () => {
    const path = cache([]);
    const bytes = Uint8Array.from({ length: 5_000_001 }, (_v, n) => (n * 7919) & 255);
    writeFileSync(join(path, 'a'), bytes);
    writeFileSync(join(path, 'b'), bytes.subarray(7, 100));
    const one = reading();
    const into = [new Uint8Array(bytes.length), new Uint8Array(93)] as const;
    await Promise.all([one.fetch(join(path, 'a'), into[0]), one.fetch(join(path, 'b'), into[1])]);
    expect(Buffer.from(into[0]).equals(bytes)).toBe(true);
    expect(Buffer.from(into[1]).equals(bytes.subarray(7, 100))).toBe(true);
    const refused = { tag: 'file-invalid', message: expect.stringMatching(/has 93 of 94 bytes/) as string };
    await expect(one.fetch(join(path, 'b'), new Uint8Array(94))).rejects.toMatchObject(refused);
    await one.fetch(join(path, 'b'), into[1]);
  });

  it('that is none any more is refused at once; closing ends a read that hangs', async () => {
    const path = cache([]);
    const fifo = join(path, 'a');
    execFileSync('mkfifo', [fifo]);
    const one = reading();
    await expect(one.fetch(fifo, new Uint8Array(10))).rejects.toMatchObject({
      message: expect.stringMatching(/is no regular file/) as string,
    });
    expect(existsSync(fifo)).toBe(true);
    // Asked of a process that is stopped: as a disk that hangs does.
    const hanging = one.fetch(fifo, new Uint8Array(10));
    one.close();
    await expect(hanging).rejects.toMatchObject({ tag: 'cancelled' });
  });
});
