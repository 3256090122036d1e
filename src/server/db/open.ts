import { mkdir, stat } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { Client } from '@libsql/client';
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql';
import { migrate } from 'drizzle-orm/libsql/migrator';
import { RuddleError } from '#core/errors';
import { connect } from './connect';
import * as schema from './schema';

export type Database = LibSQLDatabase<typeof schema> & {
  close(): void;
  /** Throws `storage` when the file is not the one that was opened any more: what is written would be gone with this process. */
  present(): Promise<void>;
};

/** What a file is, whatever it is called. */
const identity = async (file: string): Promise<string | null> =>
  await stat(file).then(
    ({ dev, ino }) => `${String(dev)}-${String(ino)}`,
    () => null,
  );

async function withFile(client: Client, file: string): Promise<Database> {
  const opened = await identity(file);
  return Object.assign(drizzle(client, { schema }), {
    close: () => {
      client.close();
    },
    present: async () => {
      if ((await identity(file)) === opened) return;
      throw new RuddleError(
        'storage',
        `Ruddle's database was removed or replaced while Ruddle runs: ${file}. End Ruddle, put the file back, and start it again; frames on the disk are as they were.`,
        { code: 'gone' },
      );
    },
  });
}

/**
 * Opens (or creates) the database and brings it up to date with the numbered migrations in `drizzle/`. Changes that belong together go through `batch`:
 * one transaction on the one connection (`transaction` would hold it over other operations).
 */
export async function openDatabase(file: string, root: string): Promise<Database> {
  await mkdir(dirname(file), { recursive: true });
  const client = connect(file, ['journal_mode = WAL', 'synchronous = NORMAL', 'foreign_keys = ON']);
  const db = await withFile(client, file);
  await migrate(db, { migrationsFolder: join(root, 'drizzle') });
  return db;
}

/** A second connection to a database that is open: it reads and never writes. */
export async function readDatabase(file: string): Promise<Database> {
  return await withFile(connect(file, ['query_only = ON']), file);
}
