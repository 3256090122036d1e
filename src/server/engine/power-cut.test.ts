import { createHash } from 'node:crypto';
import { settingsOf } from '#testing/values';
import { mkdtempSync, rmSync } from 'node:fs';
import type * as FilesOfNode from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { parseWith, resolvePlan, solveOf, shotFieldsSchema } from '#core/shot';

/**
 * What a power cut leaves: of a file, what it held when it was last synced; of a folder, the names that it had then. Everything goes to the real disk too;
 * here it is only written down what of it would be left.
 */
const disk = vi.hoisted(() => {
  /** Contents by file, now and as they were last synced. A renamed file stays the same one. */
  const files = new Map<string, { now: Buffer; synced: Buffer | null }>();
  /** Names in a folder, now and as they were last synced: of files, and of folders (null). */
  const folders = new Map<string, { now: Map<string, { now: Buffer; synced: Buffer | null } | null>; synced: Map<string, unknown> }>();
  return { files, folders };
});
vi.mock('node:fs/promises', async (original) => {
  const real = await original<typeof FilesOfNode>();
  const paths = await import('node:path');
  const up = (path: string): string => paths.dirname(path);
  const name = (path: string): string => paths.basename(path);
  const folderOf = (path: string) => {
    const known = disk.folders.get(path);
    if (known) return known;
    const made = { now: new Map<string, { now: Buffer; synced: Buffer | null } | null>(), synced: new Map<string, unknown>() };
    disk.folders.set(path, made);
    return made;
  };
  return {
    ...real,
    mkdir: async (path: string, ...rest: never[]) => {
      await real.mkdir(path, ...rest);
      folderOf(up(path)).now.set(name(path), null);
    },
    rename: async (from: string, to: string) => {
      await real.rename(from, to);
      const file = disk.files.get(from);
      if (!file) return;
      disk.files.delete(from);
      disk.files.set(to, file);
      folderOf(up(from)).now.delete(name(from));
      folderOf(up(to)).now.set(name(to), file);
    },
    rm: async (path: string, ...rest: never[]) => {
      await real.rm(path, ...rest);
      disk.files.delete(path);
      folderOf(up(path)).now.delete(name(path));
    },
    open: async (path: string, flags: string) => {
      const handle = await real.open(path, flags);
      if (flags === 'r') {
        return Object.assign(handle, {
          sync: () => {
            const folder = folderOf(path);
            folder.synced = new Map(folder.now);
            return Promise.resolve();
          },
        });
      }
      const file = { now: Buffer.alloc(0), synced: null as Buffer | null };
      disk.files.set(path, file);
      folderOf(up(path)).now.set(name(path), file);
      const write = handle.writeFile.bind(handle);
      return Object.assign(handle, {
        writeFile: async (bytes: Uint8Array | string) => {
          file.now = Buffer.from(bytes as Uint8Array);
          await write(bytes);
        },
        sync: () => {
          file.synced = file.now;
          return Promise.resolve();
        },
      });
    },
  };
});

const { DiskGuard } = await import('#server/cache');
const { startRun } = await import('.');

let folder = '';
afterEach(() => {
  rmSync(folder, { recursive: true, force: true });
});

/** What would be left of a file; null: it would not be there, for it or a folder above it has no lasting name. */
function left(path: string): Buffer | null {
  const parts = path.slice(folder.length + 1).split('/');
  let at = folder;
  for (const [n, part] of parts.entries()) {
    const names = disk.folders.get(at)?.synced;
    if (!names?.has(part)) return null;
    at = join(at, part);
    if (n === parts.length - 1) return (names.get(part) as { synced: Buffer | null }).synced;
  }
  return null;
}

describe('a power cut', () => {
  it('takes nothing of a frame whose row is written, nor the record of the run, nor the state it goes on from', async () => {
    folder = mkdtempSync(join(tmpdir(), 'ruddle-cut-'));
    // Where nothing is yet: every folder above is made too.
    const run = join(folder, 'caches', 'puff', 'run-0001-test');
    const settings = settingsOf({
      bounds: { limit: { min: [0, 0, 0], max: [3.2, 3.2, 3.2] } },
      sources: [{ shape: { kind: 'ball', centre: [1.6, 0.8, 1.6], radius: 0.5 } }],
    });
    const shot = parseWith(shotFieldsSchema, { name: 'Puff', lastFrame: 4 }, 'test');
    const lost: string[] = [];
    let checked = 0;
    const outcome = await startRun({
      shot: 'Puff',
      variant: 'One',
      settings,
      plan: resolvePlan(shot, solveOf(settings), 'test'),
      folder: run,
      geometryFolder: folder,
      threads: 1,
      states: true,
      disk: new DiskGuard(folder, 0),
      // At this moment the server writes the frame's row.
      onFrame: ({ files, states }) => {
        for (const { file, checksum } of [...files, ...states]) {
          checked++;
          const bytes = left(join(run, file));
          if (!bytes || createHash('sha256').update(bytes).digest('hex') !== checksum) lost.push(file);
        }
        if (left(join(run, 'run.json')) === null) lost.push('run.json');
      },
    }).outcome;
    expect(outcome).toMatchObject({ state: 'done', frames: 4 });
    expect(lost).toEqual([]);
    expect(checked).toBeGreaterThan(4 * 4);
    expect(JSON.parse(left(join(run, 'run.json'))!.toString('utf8'))).toMatchObject({ state: 'done' });
    // The model does lose what is not synced.
    expect(left(join(run, 'nothing.vdb'))).toBeNull();
  });
});
