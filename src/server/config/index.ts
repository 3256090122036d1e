import { availableParallelism, totalmem } from 'node:os';
import { join, resolve } from 'node:path';
import { RuddleError } from '#core/errors';
import { KEEP_BYTES } from '#server/cache';

/** More do not make a run faster. */
const MOST_THREADS = 64;

export interface Config {
  /** The project's folder: migrations lie there. */
  readonly root: string;
  /** Database and caches. */
  readonly data: string;
  readonly threads: number;
  /** What runs may take of the machine's memory together, bytes. */
  readonly memoryBytes: number;
  /** What a run must leave free on the disk. */
  readonly keepBytes: number;
  /** Folder of shots that are loaded and computed when there are none; null: none is. */
  readonly demo: string | null;
  /** Time a few small boxes at the first start, so that the first prediction is not blind. */
  readonly calibrate: boolean;
  readonly version: string;
  /** Where the server answers, when that is known. */
  readonly address?: string | undefined;
}

/** Memory for runs where nothing else is said: what the machine, or what holds this process, has, less room for everything else. */
function usualMemory(): number {
  const held = process.constrainedMemory();
  return Math.floor((held > 0 && held < totalmem() ? held : totalmem()) * 0.8);
}

/** A whole number of the environment; throws when there is one that it cannot be. */
function whole(env: NodeJS.ProcessEnv, name: string, least: number, otherwise: number): number {
  const text = env[name]?.trim() ?? '';
  if (text === '') return otherwise;
  const n = Number(text);
  if (!Number.isSafeInteger(n) || n < least) {
    throw new RuddleError('refused', `${name} is "${text}"; it must be a whole number, at least ${String(least)}.`, { reason: name });
  }
  return n;
}

export function readConfig(env: NodeJS.ProcessEnv): Config {
  const root = resolve(env['RUDDLE_ROOT'] ?? '.');
  const demo = env['RUDDLE_DEMO']?.trim() ?? '';
  return {
    root,
    data: resolve(env['RUDDLE_DATA'] ?? join(root, '.ruddle')),
    threads: Math.min(MOST_THREADS, whole(env, 'RUDDLE_THREADS', 1, availableParallelism())),
    memoryBytes: whole(env, 'RUDDLE_MEMORY', 1, usualMemory()),
    keepBytes: whole(env, 'RUDDLE_KEEP_BYTES', 0, KEEP_BYTES),
    demo: demo === '0' ? null : demo === '' || demo === '1' ? join(root, 'demo') : resolve(demo),
    calibrate: env['RUDDLE_CALIBRATE'] !== '0',
    version: '0.1.0',
    address: env['RUDDLE_ADDRESS'],
  };
}
