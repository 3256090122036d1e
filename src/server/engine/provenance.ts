import { cpus, totalmem } from 'node:os';
import { GAS_VERSION } from '#core/gas';
import { kernelsVersion } from '#kernels';

/** Which code computed a run: solver and kernels. */
export const codeVersion = `${GAS_VERSION}+${kernelsVersion}`;

export function machine(): { cores: number; model: string; memoryBytes: number; node: string } {
  const list = cpus();
  return { cores: list.length, model: list[0]?.model ?? 'unknown', memoryBytes: totalmem(), node: process.version };
}
