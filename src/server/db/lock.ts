import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { createClient } from '@libsql/client';
import { RuddleError } from '#core/errors';

/** A data folder that is this process's own. */
export interface FolderLock {
  readonly release: () => Promise<void>;
}

interface Owner {
  readonly pid: number;
  /** Where it answers; null: not known. */
  readonly address: string | null;
}

/**
 * Takes a data folder for this process alone, or throws `refused` with where its owner answers. The lock is one that the system holds for an open file
 * (SQLite's, on a file of its own): it is gone with its process, however that ends, so a dead owner needs no taking over.
 */
export async function lockFolder(data: string, address: string | null): Promise<FolderLock> {
  await mkdir(data, { recursive: true });
  const ownerFile = join(data, 'owner.json');
  const client = createClient({ url: pathToFileURL(join(data, 'lock.db')).href });
  try {
    await client.execute('PRAGMA busy_timeout = 0');
    await client.execute('PRAGMA locking_mode = EXCLUSIVE');
    await client.executeMultiple('BEGIN EXCLUSIVE; CREATE TABLE IF NOT EXISTS lock (id INTEGER); COMMIT;');
  } catch (cause) {
    client.close();
    const code = cause instanceof Error && 'code' in cause ? String(cause.code) : '';
    if (!code.startsWith('SQLITE_BUSY') && !code.startsWith('SQLITE_LOCKED')) throw cause;
    const owner = await readFile(ownerFile, 'utf8').then(
      (text) => JSON.parse(text) as Owner,
      () => null,
    );
    const where = owner?.address ?? (owner ? `process ${String(owner.pid)}` : 'another process');
    throw new RuddleError(
      'refused',
      `This data folder is already open${owner?.address ? ' at' : ' in'} ${where}: ${data}`,
      { reason: 'locked' },
      cause,
    );
  }
  await writeFile(ownerFile, JSON.stringify({ pid: process.pid, address } satisfies Owner));
  return {
    release: async () => {
      // Closing alone lets go of it only when the connection's memory is freed.
      await client.execute('PRAGMA locking_mode = NORMAL');
      await client.execute('SELECT count(*) FROM lock');
      client.close();
    },
  };
}
