import { access, constants, copyFile, link, mkdir, open, rename, rm, stat, statfs } from 'node:fs/promises';
import { dirname, join } from 'node:path';

/** `solve.0007.vdb`; pre-roll frames below 0 keep their sign. */
export const frameFileName = (pass: string, frame: number, extension = 'vdb'): string =>
  `${pass}.${frame < 0 ? '-' : ''}${String(Math.abs(frame)).padStart(4, '0')}.${extension}`;

export const previewFileName = (pass: string, frame: number, channel: string): string =>
  join('previews', `${pass}.${String(frame)}.${channel}.preview`);

export const STATES_FOLDER = 'states';
/** Where a run's state after a frame is kept while it is computed. */
export const stateFileName = (pass: string, frame: number): string => join(STATES_FOLDER, `${pass}.${String(frame)}.state`);

/**
 * Makes a folder and those above it. Not Node's own recursive mkdir: where a system answers "no such folder" for a folder that cannot be made in one that is
 * there (/proc/x), that never comes back.
 */
export async function makeFolder(path: string): Promise<void> {
  try {
    await mkdir(path);
    await syncFolder(dirname(path));
  } catch (error) {
    const code = codeOf(error);
    if (code === 'EEXIST' && (await stat(path)).isDirectory()) return;
    const up = dirname(path);
    if (code !== 'ENOENT' || up === path) throw error;
    // Where the folder above is there by now, another made it in between; where nothing can be made (/proc/x), the second attempt says so.
    if (!(await exists(up))) await makeFolder(up);
    await mkdir(path).catch(async (again: unknown) => {
      if (codeOf(again) !== 'EEXIST' || !(await stat(path)).isDirectory()) throw again;
    });
    await syncFolder(up);
  }
}

const codeOf = (error: unknown): unknown => (error instanceof Error && 'code' in error ? error.code : null);

/** Writes under a temporary name, syncs, renames: a file that is there is whole. */
export async function writeWhole(path: string, bytes: Uint8Array | string): Promise<void> {
  const temporary = `${path}.part`;
  await makeFolder(dirname(path));
  try {
    // Made anew: a link of that name, left by whomever, would lead the bytes elsewhere.
    await rm(temporary, { force: true });
    const file = await open(temporary, 'wx');
    try {
      await file.writeFile(bytes);
      await file.sync();
    } finally {
      await file.close();
    }
    await rename(temporary, path);
    await syncFolder(dirname(path));
  } catch (error) {
    await rm(temporary, { force: true });
    throw error;
  }
}

/** After this a power cut does not take back a name that was given in the folder. Where folders cannot be synced, names are as safe as the system makes them. */
async function syncFolder(path: string): Promise<void> {
  const folder = await open(path, 'r').catch(() => null);
  try {
    await folder?.sync().catch(() => undefined);
  } finally {
    await folder?.close();
  }
}

/** Gives files of one folder a name in another too, by the same paths: they take no room twice. Where files cannot be linked they are copied. */
export async function linkFiles(from: string, to: string, files: readonly string[]): Promise<void> {
  const folders = new Set<string>();
  for (const file of files) {
    const target = join(to, file);
    await makeFolder(dirname(target));
    await rm(target, { force: true });
    await link(join(from, file), target).catch(() => copyFile(join(from, file), target));
    folders.add(dirname(target));
  }
  for (const folder of folders) await syncFolder(folder);
}

/** Syncs a file that is written and moves it to its place. */
export async function moveWhole(from: string, to: string): Promise<void> {
  await makeFolder(dirname(to));
  const file = await open(from, 'r+');
  try {
    await file.sync();
  } finally {
    await file.close();
  }
  await rename(from, to);
  await syncFolder(dirname(to));
}

/** A regular file's bytes. A FIFO or a device in its place rejects: it would be waited for, or never end. */
export async function readBytes(path: string): Promise<Buffer> {
  const file = await open(path, constants.O_RDONLY | constants.O_NONBLOCK);
  try {
    if (!(await file.stat()).isFile()) throw new Error(`${path} is no regular file`);
    return await file.readFile();
  } finally {
    await file.close();
  }
}

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

const FULL = new Set<unknown>(['ENOSPC', 'EDQUOT', 'SQLITE_FULL']);

/** Whether an error, or what it was caused by, says that the disk is full: a file's or the database's. */
export const isDiskFull = (error: unknown): boolean => error instanceof Error && (FULL.has(codeOf(error)) || isDiskFull(error.cause));

export async function moveFolder(from: string, to: string): Promise<void> {
  await makeFolder(dirname(to));
  await rename(from, to);
}

export const removeFolder = (folder: string): Promise<void> => rm(folder, { recursive: true, force: true });

export const exists = (path: string): Promise<boolean> =>
  access(path).then(
    () => true,
    () => false,
  );
