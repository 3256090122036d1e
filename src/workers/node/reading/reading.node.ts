import type { ReadingAsk } from '#protocol';
import { watchMemory } from '../importing/watch-memory';
import { readingMain } from './reading-main';

watchMemory(Number(process.argv[2]));
const write = (bytes: Uint8Array): Promise<void> =>
  new Promise((resolve, reject) => {
    process.stdout.write(bytes, (error) => {
      if (error) reject(error);
      else resolve();
    });
  });
process.on('message', (ask: ReadingAsk) => {
  void readingMain(ask, write).then((answer) => process.send?.(answer));
});
process.on('disconnect', () => process.exit());
