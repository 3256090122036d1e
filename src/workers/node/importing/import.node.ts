import type { ImportJob } from '#protocol';
import { importMain } from './import-main';
import { watchMemory } from './watch-memory';

watchMemory(Number(process.argv[2]));
process.once('message', (job: ImportJob) => {
  void importMain(job, (message) => process.send?.(message));
});
