import type { ShotFile, VariantFile } from '#core/shot';
import { UsageError } from './exit';

/** The variant of a name, or the first one. */
export function pickVariant(shot: ShotFile, name: string | null): VariantFile {
  const found = name === null ? shot.variants[0] : shot.variants.find((v) => v.name === name);
  if (!found) {
    throw new UsageError(`There is no variant "${name ?? ''}"; the shot has ${shot.variants.map((v) => `"${v.name}"`).join(', ')}.`);
  }
  return found;
}
