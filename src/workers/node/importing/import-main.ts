import { writeFileSync } from 'node:fs';
import { toErrorData } from '#core/errors';
import type { ImportJob, ImportMessage, ImportResults } from '#protocol';
import { packBundle, unpackBundle } from './bundle';
import { makeGeometry } from './make';

/** Progress is told at most this often, milliseconds. */
const TELL_EVERY = 100;

/** The body of an import process: does one job and says how it went. */
export async function importMain(job: ImportJob, send: (message: ImportMessage) => void): Promise<void> {
  let told = 0;
  let stage = '';
  const tell = (now: string, part: number | null): void => {
    if (now === stage && Date.now() - told < TELL_EVERY) return;
    [stage, told] = [now, Date.now()];
    send({ kind: 'progress', stage: now, part });
  };
  try {
    send({ kind: 'done', result: await work(job, tell) });
  } catch (error) {
    send({ kind: 'failed', error: toErrorData(error) });
  }
}

async function work(job: ImportJob, tell: (stage: string, part: number | null) => void): Promise<ImportResults[ImportJob['kind']]> {
  switch (job.kind) {
    case 'geometry': {
      const { bytes, info } = await makeGeometry(job.input, job.file, tell);
      tell('keeping', null);
      writeFileSync(job.output, bytes);
      return info;
    }
    case 'unpack':
      return unpackBundle(job.input, job.file, job.folder, (part) => {
        tell('unpacking', part);
      });
    case 'pack':
      return packBundle(job.shot, job.geometry, job.output, (part) => {
        tell('packing', part);
      });
  }
}
