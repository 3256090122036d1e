import { open, readFile, rename, rm, statfs, mkdir, access } from 'node:fs/promises';
import { dirname, join } from 'node:path';

/** `solve.0007.vdb`; pre-roll frames below 0 keep their sign. */
export const frameFileName = (pass: string, frame: number): string =>
  `${pass}.${frame < 0 ? '-' : ''}${String(Math.abs(frame)).padStart(4, '0')}.vdb`;

export const previewFileName = (pass: string, frame: number, channel: string): string =>
  join('previews', `${pass}.${String(frame)}.${channel}.preview`);

/** Writes under a temporary name, syncs, renames: a file that is there is whole. */
export async function writeWhole(path: string, bytes: Uint8Array | string): Promise<void> {
  const temporary = `${path}.part`;
  await mkdir(dirname(path), { recursive: true });
  try {
    const file = await open(temporary, 'w');
    try {
      await file.writeFile(bytes);
      await file.sync();
    } finally {
      await file.close();
    }
    await rename(temporary, path);
  } catch (error) {
    await rm(temporary, { force: true });
    throw error;
  }
}

export const readBytes = (path: string): Promise<Buffer> => readFile(path);

/** Bytes that can still be written where a folder is (or will be). */
export async function freeBytes(folder: string): Promise<number> {
  let at = folder;
  for (;;) {
    try {
      const s = await statfs(at);
      return s.bavail * s.bsize;
    } catch {
      const up = dirname(at);
      if (up === at) throw new Error(`no such folder: ${folder}`);
      at = up;
    }
  }
}

export const isDiskFull = (error: unknown): boolean =>
  error instanceof Error && 'code' in error && (error.code === 'ENOSPC' || error.code === 'EDQUOT');

export async function moveFolder(from: string, to: string): Promise<void> {
  await mkdir(dirname(to), { recursive: true });
  await rename(from, to);
}

export const removeFolder = (folder: string): Promise<void> => rm(folder, { recursive: true, force: true });

export const exists = (path: string): Promise<boolean> =>
  access(path).then(
    () => true,
    () => false,
  );
