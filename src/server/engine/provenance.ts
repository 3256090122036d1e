import { cpus, totalmem } from 'node:os';
import { gasVersion } from '#core/passes';
import { kernelsVersion } from '#kernels';
import type { RunHead } from './run-folder';

/** Which code computed a run: solver and kernels. */
export const codeVersion = `${gasVersion}+${kernelsVersion}`;

function machine(): { cores: number; model: string; memoryBytes: number; node: string } {
  const list = cpus();
  return { cores: list.length, model: list[0]?.model ?? 'unknown', memoryBytes: totalmem(), node: process.version };
}

/** What run.json says from the first to the last writing. */
export const headOf = (
  { shot, variant, threads, settings, plan }: Pick<RunHead, 'shot' | 'variant' | 'threads' | 'settings' | 'plan'>,
  key: string,
): RunHead => ({
  shot,
  variant,
  key,
  codeVersion,
  machine: machine(),
  threads,
  startedAt: new Date().toISOString(),
  settings,
  plan,
});
