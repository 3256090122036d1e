import { existsSync, mkdirSync, mkdtempSync, readFileSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { DiskGuard, frameFileName, freeBytes, isDiskFull, makeFolder, moveFolder, previewFileName, writeWhole } from '.';

let folder = '';
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'ruddle-cache-'));
});
afterEach(() => {
  rmSync(folder, { recursive: true, force: true });
});

describe('files', () => {
  it('are named by pass and frame', () => {
    expect(frameFileName('solve', 7)).toBe('solve.0007.vdb');
    expect(frameFileName('solve', 12345)).toBe('solve.12345.vdb');
    expect(frameFileName('solve', -12)).toBe('solve.-0012.vdb');
    expect(previewFileName('solve', 7, 'density')).toBe(join('previews', 'solve.7.density.preview'));
  });
  it('are whole or not there', async () => {
    const path = join(folder, 'deep', 'a.bin');
    await writeWhole(path, new Uint8Array([1, 2, 3]));
    await writeWhole(path, new Uint8Array([4]));
    expect([...readFileSync(path)]).toEqual([4]);
    // A folder in the way: the write fails and leaves nothing behind.
    mkdirSync(join(folder, 'taken'));
    mkdirSync(join(folder, 'taken', 'x'));
    await expect(writeWhole(join(folder, 'taken'), 'text')).rejects.toThrow();
    expect(readdirSync(folder).sort()).toEqual(['deep', 'taken']);
  });
  it('move with their folder', async () => {
    await writeWhole(join(folder, 'run', 'a'), 'x');
    await moveFolder(join(folder, 'run'), join(folder, 'aside', '1'));
    expect(existsSync(join(folder, 'aside', '1', 'a'))).toBe(true);
  });
  it('a full disk is known by its code', () => {
    expect(isDiskFull(Object.assign(new Error('no space'), { code: 'ENOSPC' }))).toBe(true);
    expect(isDiskFull(Object.assign(new Error('no such file'), { code: 'ENOENT' }))).toBe(false);
  });
});

describe('the disk guard', () => {
  it('lets pass what leaves enough, asks for room first, and says no with the figures', async () => {
    const free = await freeBytes(join(folder, 'not', 'yet', 'there'));
    expect(free).toBeGreaterThan(0);
    await new DiskGuard(folder, 0).check(1);
    let asked = 0;
    const guard = (reclaimable: number): DiskGuard =>
      new DiskGuard(folder, free * 2, {
        bytes: () => Promise.resolve(reclaimable),
        giveBack: async (enough) => {
          asked++;
          expect(await enough()).toBe(false);
        },
      });
    expect([await guard(0).hasRoom(1), asked]).toEqual([false, 0]);
    await expect(guard(0).check(1)).rejects.toMatchObject({ tag: 'disk-full', fields: { keepBytes: free * 2 } });
    expect(asked).toBe(1);
    // Only asked about: nothing is given back for a start that may be refused.
    await guard(4 * free).mayHold(1);
    await expect(guard(free / 2).mayHold(1)).rejects.toMatchObject({ tag: 'disk-full' });
    expect(asked).toBe(1);
  });
});

describe('a folder that several want at once', () => {
  it('is made once, with those above it, and nobody is told that there is none', async () => {
    for (let round = 0; round < 20; round++) {
      const root = mkdtempSync(join(tmpdir(), 'ruddle-folders-'));
      // Some want folders of their own below the same one, some the same.
      const wanted = Array.from({ length: 24 }, (_v, n) => join(root, 'a', 'b', 'c', String(n % 16)));
      await Promise.all(wanted.map((path) => makeFolder(path)));
      expect(readdirSync(join(root, 'a', 'b', 'c'))).toHaveLength(16);
      rmSync(root, { recursive: true });
    }
  });

  it('is refused at once where none can be made', async () => {
    await expect(makeFolder('/proc/ruddle/below')).rejects.toMatchObject({ code: 'ENOENT' });
  });
});
