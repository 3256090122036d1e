import { pathToFileURL } from 'node:url';
import { type Client, type ResultSet, createClient } from '@libsql/client';
import { isBusy, patiently } from './patient';

/** How long any operation waits for a database that another program holds, milliseconds. The server answers meanwhile. */
const PATIENCE = 5000;

/**
 * A client with one connection that has these settings, and one operation at a time on it:
 *
 * - The driver opens further connections by itself where two operations meet, and those have none of the settings: no foreign keys, no waiting.
 * - After an operation that found the database held, the driver leaves its statement unfinished until the garbage collector comes, and until then no
 *   transaction of that connection can be committed ("SQL statements in progress", 25 s and more). So that connection is thrown away at once.
 * - SQLite's own waiting (`busy_timeout`) would hold up the whole process, the answers of the server too: it waits here instead.
 */
export function connect(file: string, settings: readonly string[]): Client {
  const client = createClient({ url: pathToFileURL(file).href, concurrency: 1 });
  const execute: (sql: string) => Promise<ResultSet> = client.execute.bind(client);
  /** Whether the connection has its settings: they may have to wait too. */
  let ready = false;
  const configure = async (): Promise<void> => {
    for (const setting of settings) await execute(`PRAGMA ${setting}`);
    ready = true;
  };
  let last: Promise<unknown> = Promise.resolve();
  const alone = <A extends unknown[], R>(operation: (...args: A) => Promise<R>): ((...args: A) => Promise<R>) => {
    const once = async (...args: A): Promise<R> => {
      try {
        if (!ready) await configure();
        return await operation(...args);
      } catch (error) {
        if (isBusy(error) && !client.closed) {
          client.reconnect();
          ready = false;
        }
        throw error;
      }
    };
    return (...args) =>
      patiently(() => {
        const mine = last.then(() => once(...args));
        last = mine.catch(() => undefined);
        return mine;
      }, PATIENCE);
  };
  client.execute = alone(execute);
  client.batch = alone(client.batch.bind(client));
  client.migrate = alone(client.migrate.bind(client));
  return client;
}
