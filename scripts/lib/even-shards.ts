import { statSync } from 'node:fs';
import { BaseSequencer, type TestSpecification } from 'vitest/node';

/** Shards of about as much to do: the largest file goes where least is. Those of vitest go by a hash of the names, and one of three took half of the time. */
export class EvenShards extends BaseSequencer {
  override shard(files: TestSpecification[]): Promise<TestSpecification[]> {
    const { shard } = this.ctx.config;
    if (!shard) return Promise.resolve(files);
    const parts = Array.from({ length: shard.count }, () => ({ bytes: 0, files: [] as TestSpecification[] }));
    const sized = files.map((file) => ({ file, bytes: statSync(file.moduleId).size }));
    for (const { file, bytes } of sized.sort((a, b) => b.bytes - a.bytes || (a.file.moduleId < b.file.moduleId ? -1 : 1))) {
      const least = parts.reduce((a, b) => (b.bytes < a.bytes ? b : a));
      least.bytes += bytes;
      least.files.push(file);
    }
    return Promise.resolve(parts[shard.index - 1]?.files ?? []);
  }
}
