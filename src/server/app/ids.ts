import { randomBytes } from 'node:crypto';

/** Short random identifier, safe in addresses and file names. */
export const newId = (): string => randomBytes(9).toString('base64url').replace(/[-_]/g, 'x');

/** `Kiln stack` -> `kiln-stack`. */
export function slugOf(name: string, taken: readonly string[]): string {
  const base =
    name
      .normalize('NFKD')
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, '')
      .slice(0, 40) || 'shot';
  let slug = base;
  for (let n = 2; taken.includes(slug); n++) slug = `${base}-${String(n)}`;
  return slug;
}
