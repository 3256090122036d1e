import { availableParallelism } from 'node:os';
import { join, resolve } from 'node:path';
import { KEEP_BYTES } from '#server/cache';

export interface Config {
  /** The project's folder: migrations and demo shots lie there. */
  readonly root: string;
  /** Database and caches. */
  readonly data: string;
  readonly threads: number;
  /** What a run must leave free on the disk. */
  readonly keepBytes: number;
  /** Load and compute the demo shots when there are no shots. */
  readonly demo: boolean;
  /** Time a few small boxes at the first start, so that the first prediction is not blind. */
  readonly calibrate: boolean;
  readonly version: string;
  /** Where the server answers, when that is known. */
  readonly address?: string | undefined;
}

const whole = (text: string | undefined, otherwise: number): number => {
  const n = Number(text);
  return text !== undefined && text !== '' && Number.isFinite(n) && n >= 0 ? n : otherwise;
};

export function readConfig(env: NodeJS.ProcessEnv): Config {
  const root = resolve(env['RUDDLE_ROOT'] ?? '.');
  return {
    root,
    data: resolve(env['RUDDLE_DATA'] ?? join(root, '.ruddle')),
    threads: Math.max(1, Math.min(64, whole(env['RUDDLE_THREADS'], availableParallelism()))),
    keepBytes: whole(env['RUDDLE_KEEP_BYTES'], KEEP_BYTES),
    demo: env['RUDDLE_DEMO'] !== '0',
    calibrate: env['RUDDLE_CALIBRATE'] !== '0',
    version: '0.1.0',
    address: env['RUDDLE_ADDRESS'],
  };
}
