import { resolve } from 'node:path';
import { RuddleError } from '#core/errors';
import { type RunRecord, readRunRecord } from '#server/cache';
import { UsageError } from './exit';

/** A run that lies in a folder. */
export interface Recorded {
  readonly folder: string;
  readonly record: RunRecord;
}

/** The run of the one folder that a command names. Throws `not-found` when there is none. */
export async function recordedIn(positionals: readonly string[], usage: string): Promise<Recorded> {
  const [given] = positionals;
  if (given === undefined || positionals.length > 1) throw new UsageError(`Name one folder: ${usage}`);
  const folder = resolve(given);
  const record = await readRunRecord(folder);
  if (!record) throw new RuddleError('not-found', `${given} holds no run: there is no run.json that can be read.`, { what: given });
  return { folder, record };
}
