import { mkdir } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { createClient } from '@libsql/client';
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql';
import { migrate } from 'drizzle-orm/libsql/migrator';
import * as schema from './schema';

export type Database = LibSQLDatabase<typeof schema> & { close(): void };

/** Opens (or creates) the database and brings it up to date with the numbered migrations in `drizzle/`. */
export async function openDatabase(file: string, root: string): Promise<Database> {
  await mkdir(dirname(file), { recursive: true });
  const client = createClient({ url: pathToFileURL(file).href });
  await client.execute('PRAGMA journal_mode = WAL');
  await client.execute('PRAGMA synchronous = NORMAL');
  await client.execute('PRAGMA busy_timeout = 5000');
  await client.execute('PRAGMA foreign_keys = ON');
  const db = drizzle(client, { schema });
  await migrate(db, { migrationsFolder: join(root, 'drizzle') });
  return Object.assign(db, {
    close: () => {
      client.close();
    },
  });
}
