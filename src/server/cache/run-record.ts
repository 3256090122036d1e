import { join } from 'node:path';
import type { ErrorData } from '#core/errors';
import type { FrameReport } from '#core/gas';
import type { Plan, Settings } from '#core/shot';
import { writeWhole } from './files';

export interface RunFrameRecord {
  readonly frame: number;
  /** null for pre-roll that was not written. */
  readonly file: string | null;
  readonly bytes: number;
  /** SHA-256 of the file. */
  readonly checksum: string | null;
  /** Files of the bounds beside, in their order. */
  readonly beside?: readonly { readonly file: string; readonly checksum: string }[];
  readonly report: FrameReport;
}

/** `run.json`: where a cache comes from, and what every frame cost. */
export interface RunRecord {
  readonly ruddle: 1;
  readonly shot: string;
  readonly variant: string;
  readonly key: string;
  readonly state: 'running' | 'done' | 'cancelled' | 'failed';
  readonly error: ErrorData | null;
  readonly codeVersion: string;
  readonly machine: { readonly cores: number; readonly model: string; readonly memoryBytes: number; readonly node: string };
  readonly threads: number;
  readonly startedAt: string;
  readonly endedAt: string | null;
  readonly settings: Settings;
  readonly plan: Plan;
  readonly frames: readonly RunFrameRecord[];
}

export const writeRunRecord = (folder: string, record: RunRecord): Promise<void> =>
  writeWhole(join(folder, 'run.json'), `${JSON.stringify(record, null, 1)}\n`);
