import { mkdir } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { type Client, createClient } from '@libsql/client';
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql';
import { migrate } from 'drizzle-orm/libsql/migrator';
import * as schema from './schema';

export type Database = LibSQLDatabase<typeof schema> & { close(): void };

const closable = (client: Client): Database =>
  Object.assign(drizzle(client, { schema }), {
    close: () => {
      client.close();
    },
  });

/**
 * Opens (or creates) the database and brings it up to date with the numbered migrations in `drizzle/`. Changes that belong together go through `batch`:
 * one transaction on this one connection (`transaction` would open another one, without these settings).
 */
export async function openDatabase(file: string, root: string): Promise<Database> {
  await mkdir(dirname(file), { recursive: true });
  const client = createClient({ url: pathToFileURL(file).href });
  await client.execute('PRAGMA journal_mode = WAL');
  await client.execute('PRAGMA synchronous = NORMAL');
  await client.execute('PRAGMA busy_timeout = 5000');
  await client.execute('PRAGMA foreign_keys = ON');
  const db = closable(client);
  await migrate(db, { migrationsFolder: join(root, 'drizzle') });
  return db;
}

/** A second connection to a database that is open: it reads and never writes. */
export async function readDatabase(file: string): Promise<Database> {
  const client = createClient({ url: pathToFileURL(file).href });
  await client.execute('PRAGMA busy_timeout = 5000');
  await client.execute('PRAGMA query_only = ON');
  return closable(client);
}
