import pLimit from 'p-limit';
import type { ImportJob, ImportResults } from '#protocol';
import { runImport } from '#workers/node';
import type { EventHub } from './events';

/** Who waits for an import. */
export interface ImportTask {
  /** Under which its progress is told; null: nobody listens. */
  readonly id: string | null;
  /** The client left. */
  readonly signal: AbortSignal;
}

/** At once: each may hold gigabytes. */
const AT_ONCE = 2;

/** Work on files from outside: in processes of their own, two at a time, with progress, ended when the client leaves. */
export class Imports {
  readonly #limit = pLimit(AT_ONCE);

  constructor(private readonly events: EventHub) {}

  async run<J extends ImportJob>(job: J, { id, signal }: ImportTask): Promise<ImportResults[J['kind']]> {
    const tell = (stage: string, part: number | null): void => {
      if (id !== null) this.events.emit({ kind: 'import', id, stage, part });
    };
    if (this.#limit.activeCount >= AT_ONCE) tell('queued', null);
    return await this.#limit(() => runImport(job, { signal, onProgress: tell }));
  }
}
